//! A reel on powered faces.

use std::time::Duration;

use super::clock::Speed;
use super::keyboard::Keyboard;
use super::reel::{Binding, Program, Wish};
use super::scheduler::Scheduler;
use super::transport::Transport;
use super::{Inputs, KeyMoment, Playing, Reel, Track, exposure};
use crate::board::OnBoard;
use crate::board::picture::Picture;
use crate::content::Canvas;
use crate::frame::Frame;
use crate::link::{Link, LinkError};
use crate::plan::{ButtonId, Keypad, Rig};
use crate::units::Nanos;

/// Plays a reel: draws its tracks at the moments at which they change and hands the frames to the scheduler.
///
/// Elapsed time is the scheduler's time, counted from the moment at which all faces have been powered up; the acts' time follows it
/// as the [`Transport`] says, which is the same where nobody holds or hurries it. A change that
/// comes while its face's bus is busy, or while an earlier frame waits for the next slot of the scan, is drawn after that, with its
/// content at that time: late frames are left out, and bus time never runs away from act time.
pub struct Player<'p, L> {
    reel: &'p Reel,
    scheduler: Scheduler<'p, L>,
    /// When playing begins, in the scheduler's time.
    origin: Nanos,
    stages: Vec<Stage>,
    polls: Vec<Poll>,
    inputs: Inputs,
    bindings: &'p [Binding],
    transport: Transport,
    /// Since when the acts are held, in the time of playing.
    held_at: Option<Duration>,
    has_own_wall: bool,
}

/// One face that plays.
struct Stage {
    face: usize,
    shown: Frame,
    /// The next frame is drawn here, then swapped in.
    drawn: Frame,
    fresh: bool,
    /// The step that an act wants.
    brightness: Option<u8>,
    /// When it may look different next.
    changes_at: Option<Duration>,
    /// When everything is sent again, where the rig asks for it.
    resend_at: Option<Duration>,
}

/// Push buttons that are looked at again and again.
struct Poll {
    keypad: Keypad,
    /// When they are looked at next, and how often.
    due: Duration,
    every: Duration,
    keyboard: Keyboard,
}

/// Something that is due on a stage or at push buttons.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Due {
    Change,
    Resend,
    Poll,
}

impl<'p, L: Link> Player<'p, L> {
    /// Powers up the faces that play.
    ///
    /// # Errors
    /// When the link fails.
    pub fn new(rig: &'p Rig, reel: &'p Reel, link: L) -> Result<Self, LinkError> {
        Self::of_faces(rig, reel, &[], link)
    }

    /// The same with more faces, on which nothing plays.
    fn of_faces(rig: &'p Rig, reel: &'p Reel, more: &[usize], link: L) -> Result<Self, LinkError> {
        let mut scheduler = Scheduler::new(rig, link);
        let of_tracks = reel.tracks.iter().map(|track| track.face);
        let mut faces: Vec<usize> = of_tracks.chain(more.iter().copied()).collect();
        faces.sort_unstable();
        faces.dedup();
        let mut stages = Vec::new();
        for face in faces {
            let Some(mount) = rig.faces.get(face) else { continue };
            scheduler.power_up(face)?;
            let dark = mount.face.blank();
            let resend_at = mount.drive.display().resend_every().map(Duration::from);
            stages.push(Stage {
                face,
                shown: dark.clone(),
                drawn: dark,
                fresh: true,
                brightness: None,
                changes_at: Some(Duration::ZERO),
                resend_at,
            });
        }
        let origin = scheduler.now();
        Ok(Self {
            reel,
            scheduler,
            origin,
            stages,
            polls: Vec::new(),
            inputs: Inputs::default(),
            bindings: &[],
            transport: Transport::default(),
            held_at: None,
            has_own_wall: false,
        })
    }

    /// Powers up the faces of a program; its variables begin, and its keys are heard.
    ///
    /// # Errors
    /// When the link fails.
    pub fn of_program(rig: &'p Rig, program: &'p Program, link: L) -> Result<Self, LinkError> {
        let faces = program.heard.iter().filter_map(|keypad| match *keypad {
            Keypad::Face(face) => Some(face),
            Keypad::Pins => None,
        });
        let mut player = Self::of_faces(rig, &program.reel, &faces.collect::<Vec<_>>(), link)?;
        program.begin(&mut player.inputs);
        player.bindings = &program.bindings;
        player.has_own_wall = program.begins.is_some();
        program.heard.iter().for_each(|keypad| player.poll_buttons(*keypad, POLL));
        Ok(player)
    }

    /// Looks at push buttons so often; what happens to them becomes inputs. A face whose buttons they are must play.
    pub fn poll_buttons(&mut self, keypad: Keypad, every: Duration) {
        let count = self.scheduler.rig().button_names(keypad).len();
        let plays = match keypad {
            Keypad::Face(face) => self.stages.iter().any(|stage| stage.face == face),
            Keypad::Pins => true,
        };
        self.polls.retain(|poll| poll.keypad != keypad);
        if count > 0 && plays {
            let keyboard = Keyboard::new(count, Keyboard::USUAL_DEBOUNCE, Keyboard::USUAL_HOLD);
            let every = every.max(Duration::from_nanos(1));
            self.polls.push(Poll { keypad, due: self.elapsed(), every, keyboard });
        }
    }

    /// Returns true if the clock on the wall goes on from a time that the program says, whatever time it is.
    #[must_use]
    pub const fn has_own_wall(&self) -> bool {
        self.has_own_wall
    }

    /// The inputs.
    #[must_use]
    pub const fn inputs(&self) -> &Inputs {
        &self.inputs
    }

    /// The same, to be added to. After a change [`Self::look_again`] makes the acts take notice.
    pub const fn inputs_mut(&mut self) -> &mut Inputs {
        &mut self.inputs
    }

    /// Draws every face again at the next moment.
    pub fn look_again(&mut self) {
        let now = self.elapsed();
        self.stages.iter_mut().for_each(|stage| stage.changes_at = Some(now));
    }

    /// How long it has been playing.
    #[must_use]
    pub fn elapsed(&self) -> Duration {
        (self.scheduler.now() - self.origin).into()
    }

    /// The moment of the acts.
    #[must_use]
    pub fn act_time(&self) -> Duration {
        self.transport.act_time(self.elapsed())
    }

    /// How the acts' time goes.
    #[must_use]
    pub const fn transport(&self) -> &Transport {
        &self.transport
    }

    /// Plays on at another speed, unless the acts are held.
    pub fn go_at(&mut self, speed: Speed) {
        self.transport.go_at(self.elapsed(), speed);
        self.look_again();
    }

    /// Holds the acts, while buses and scans go on, or lets them go on. The clock on the wall is never held.
    pub fn hold(&mut self, is_held: bool) {
        let now = self.elapsed();
        self.transport.hold(now, is_held);
        if is_held {
            self.held_at.get_or_insert(now);
        } else if let Some(since) = self.held_at.take() {
            let act = self.transport.act_time(now);
            self.inputs.pass_wall(act, now.saturating_sub(since));
        }
        self.look_again();
    }

    /// Plays on from another moment of the acts.
    pub fn seek(&mut self, act: Duration) {
        self.transport.seek(self.elapsed(), act);
        self.look_again();
    }

    /// Plays on from another moment of the acts, with the variables and the clock on the wall as they are now.
    fn jump(&mut self, act: Duration) {
        let from = self.act_time();
        self.seek(act);
        self.inputs.carry(from, act);
    }

    /// The next moment of the acts, after the one they are at, at which something looks different.
    #[must_use]
    pub fn next_change(&self) -> Option<Duration> {
        self.change_after(self.act_time())
    }

    fn change_after(&self, act: Duration) -> Option<Duration> {
        self.reel.tracks.iter().filter_map(|track| track.act.next_change(act, &self.inputs)).min()
    }

    /// The moment of the acts at which what was seen before this was seen first: the change before the last one. `None` where nothing
    /// was.
    #[must_use]
    pub fn change_before(&self) -> Option<Duration> {
        let current = self.change_up_to(self.act_time())?;
        self.change_up_to(current.checked_sub(Duration::from_nanos(1))?)
    }

    /// The last change of the acts up to a moment; the beginning is one.
    fn change_up_to(&self, act: Duration) -> Option<Duration> {
        // From further and further back, until there is a change on the way.
        let mut back = Duration::from_millis(1);
        loop {
            let mut last = if back >= act { Some(Duration::ZERO) } else { None };
            let mut moment = act.saturating_sub(back);
            while let Some(next) = self.change_after(moment).filter(|next| *next <= act) {
                (last, moment) = (Some(next), next);
            }
            if last.is_some() {
                return last;
            }
            back = back.saturating_mul(4);
        }
    }

    /// A moment of playing in the scheduler's time.
    #[must_use]
    pub fn moment(&self, elapsed: Duration) -> Nanos {
        self.origin + Nanos::from(elapsed)
    }

    /// The scheduler.
    pub const fn scheduler(&self) -> &Scheduler<'p, L> {
        &self.scheduler
    }

    /// The same, to be acted on.
    pub const fn scheduler_mut(&mut self) -> &mut Scheduler<'p, L> {
        &mut self.scheduler
    }

    /// The next moment at which something is due.
    #[must_use]
    pub fn next_moment(&self) -> Option<Duration> {
        self.due().map(|(at, ..)| at)
    }

    /// The next event: its time, its kind and its stage.
    fn due(&self) -> Option<(Duration, Due, usize)> {
        self.due_among(|_, _| true)
    }

    /// The same among some of it.
    fn due_among(&self, is_asked: impl Fn(Due, usize) -> bool) -> Option<(Duration, Due, usize)> {
        let (now, mut next) = (self.elapsed(), None::<(Duration, Due, usize)>);
        let from_now = |at: Nanos| if at > self.scheduler.now() { (at - self.origin).into() } else { now };
        let mut consider = |coming: (Duration, Due, usize)| {
            if next.is_none_or(|next| coming < next) {
                next = Some(coming);
            }
        };
        for (place, stage) in self.stages.iter().enumerate() {
            let free = from_now(self.scheduler.free_at(stage.face));
            let takes_frame = self.scheduler.frame_waits_until(stage.face).map_or(free, from_now).max(free);
            for (at, earliest, due) in
                [(stage.changes_at, takes_frame, Due::Change), (stage.resend_at, free, Due::Resend)]
            {
                let Some(at) = at.filter(|_| is_asked(due, place)) else { continue };
                consider((at.max(earliest), due, place));
            }
        }
        for (place, poll) in self.polls.iter().enumerate().filter(|(place, _)| is_asked(Due::Poll, *place)) {
            let free = from_now(self.scheduler.buttons_free_at(poll.keypad));
            consider((poll.due.max(free), Due::Poll, place));
        }
        next
    }

    /// Lets everything happen that is due up to `until`, that moment included. Whether any face looks different.
    ///
    /// # Errors
    /// When the link fails.
    pub fn advance(&mut self, until: Duration) -> Result<bool, LinkError> {
        let mut changed = false;
        while let Some((at, due, place)) = self.due().filter(|(at, ..)| *at <= until) {
            self.scheduler.run_until(self.moment(at))?;
            changed |= match due {
                Due::Change => self.draw(place, at)?,
                Due::Resend => {
                    self.scheduler.refresh(self.stages[place].face)?;
                    self.put_off_resend(place);
                    false
                }
                Due::Poll => {
                    self.poll_at(place, at, until)?;
                    false
                }
            };
        }
        self.scheduler.run_until(self.moment(until))?;
        Ok(changed)
    }

    /// Goes to a moment without drawing the changes long before it, unless keys are polled, which may change anything. A picture that
    /// waits for its bus at that moment is still drawn.
    ///
    /// # Errors
    /// When the link fails.
    pub fn skip_to(&mut self, at: Duration) -> Result<bool, LinkError> {
        if self.polls.is_empty() {
            let begin = at.saturating_sub(DRAWN_BEFORE);
            for stage in &mut self.stages {
                stage.changes_at = stage.changes_at.map(|changes| changes.max(begin));
            }
        }
        let mut changed = self.advance(at)?;
        let waits = |player: &Self| {
            let is_due = |place: usize| player.stages[place].changes_at.is_some_and(|changes| changes <= at);
            player.due_among(|due, place| due == Due::Change && is_due(place))
        };
        while let Some((late, _, place)) = waits(self) {
            self.scheduler.run_until(self.moment(late))?;
            changed |= self.draw(place, at)?;
        }
        Ok(changed)
    }

    /// The resend after one that has just been done: never before a frame has had its time.
    fn put_off_resend(&mut self, place: usize) {
        let now = self.elapsed();
        let stage = &mut self.stages[place];
        let mount = &self.scheduler.rig().faces[stage.face];
        let every = mount.drive.display().resend_every().map(Duration::from);
        let due = stage.resend_at.zip(every).map(|(due, every)| due + every);
        stage.resend_at = due.map(|due| due.max(now + LEAST_PAUSE));
    }

    /// Draws the tracks of a face and shows them where they differ from what is shown.
    fn draw(&mut self, place: usize, at: Duration) -> Result<bool, LinkError> {
        let rig = self.scheduler.rig();
        let act_time = self.transport.act_time(at);
        let stage = &mut self.stages[place];
        let face = &rig.faces[stage.face].face;
        stage.drawn.clear();
        let of_face = |track: &&Track| track.face == stage.face;
        for track in self.reel.tracks.iter().filter(of_face) {
            track.act.draw(act_time, &self.inputs, &mut Canvas::whole(face, &mut stage.drawn));
        }
        let wanted = self.reel.tracks.iter().filter(of_face);
        let wanted = wanted.rev().find_map(|track| track.act.brightness(act_time, &self.inputs));
        let step = wanted.and_then(|light| light.step(&rig.faces[stage.face]));
        let is_dimmed = step.is_some() && step != stage.brightness;
        let changes = self.reel.tracks.iter().filter(of_face);
        let next = changes.filter_map(|track| track.act.next_change(act_time, &self.inputs)).min();
        stage.changes_at = next.and_then(|next| self.transport.bus_time(next));
        if let (true, Some(step)) = (is_dimmed, step) {
            stage.brightness = Some(step);
            self.scheduler.brightness(stage.face, step)?;
        }
        if !stage.fresh && stage.drawn == stage.shown {
            return Ok(is_dimmed);
        }
        std::mem::swap(&mut stage.drawn, &mut stage.shown);
        stage.fresh = false;
        self.scheduler.show(stage.face, &stage.shown)?;
        Ok(true)
    }

    /// Looks at push buttons. Whether anything has happened to one.
    fn poll(&mut self, place: usize) -> Result<bool, LinkError> {
        let keypad = self.polls[place].keypad;
        let down = self.scheduler.buttons(keypad)?;
        let (now, due_at, at) = (self.scheduler.now(), self.elapsed(), self.act_time());
        let (mut happened, mut wishes) = (false, Vec::new());
        let poll = &mut self.polls[place];
        for (button, event) in poll.keyboard.take(now, &down) {
            let key = KeyMoment { at, button: ButtonId { keypad, button }, event };
            let inputs = &mut self.inputs;
            wishes.extend(self.bindings.iter().filter_map(|binding| binding.hear(&key, inputs)));
            self.inputs.press(key);
            happened = true;
        }
        poll.due = (poll.due + poll.every).max(due_at);
        if happened {
            self.look_again();
        }
        for wish in wishes {
            match wish {
                Wish::Jump(to) => self.jump(to),
                Wish::Pause => self.hold(!self.transport.is_held()),
            }
        }
        Ok(happened)
    }

    /// A poll that is due, and what may be left out after it. Whether anything has happened to a key.
    fn poll_at(&mut self, place: usize, at: Duration, until: Duration) -> Result<bool, LinkError> {
        let happened = self.poll(place)?;
        self.skip_polls(place, self.elapsed() - at, until);
        Ok(happened)
    }

    /// Lets nothing happen but polls, up to a moment. Whether they found nothing.
    fn poll_until(&mut self, until: Duration) -> Result<bool, LinkError> {
        while let Some((at, Due::Poll, place)) = self.due().filter(|(at, ..)| *at < until) {
            self.scheduler.run_until(self.moment(at))?;
            if self.poll_at(place, at, until)? {
                return Ok(false);
            }
        }
        self.scheduler.run_until(self.moment(until))?;
        Ok(true)
    }

    /// Skips polls that would return what the last one returned and end before anything else is due that they could delay: as long as
    /// no button changes, the answer stays the same. A poll takes `long`.
    fn skip_polls(&mut self, place: usize, long: Duration, until: Duration) {
        let Poll { keypad, due: next, every, ref keyboard } = self.polls[place];
        if !keyboard.is_settled() {
            return;
        }
        // Reading pins takes no time from anything that a scan sends.
        let may_delay = keypad != Keypad::Pins && !self.scheduler.is_silent();
        if may_delay || !self.scheduler.link_mut().simulated().is_some_and(|link| link.answers_alike()) {
            return;
        }
        let device = |due: Due, place: usize| match due {
            Due::Change | Due::Resend => self.scheduler.device_of(Keypad::Face(self.stages[place].face)),
            Due::Poll => self.scheduler.device_of(self.polls[place].keypad),
        };
        let own = device(Due::Poll, place);
        let delays = |due: Due, of: usize| {
            own.zip(device(due, of)).is_some_and(|(own, of)| self.scheduler.link().shares_time(own, of))
        };
        let other = self.due_among(|due, of| (due, of) != (Due::Poll, place) && delays(due, of));
        let other = other.map_or(until, |(at, ..)| at.min(until));
        let Some(room) = other.checked_sub(next + long) else { return };
        let skipped = room.as_nanos() / every.as_nanos() + 1;
        self.polls[place].due = next + every * u32::try_from(skipped).unwrap_or(0);
    }

    /// Puts every face out.
    ///
    /// # Errors
    /// When the link fails.
    pub fn off(&mut self) -> Result<(), LinkError> {
        self.stages.iter().try_for_each(|stage| self.scheduler.off(stage.face))
    }
}

impl<'p, L: OnBoard<'p>> Player<'p, L> {
    /// Lets the eye watch what plays for as long as it takes to see it. Returns when it has.
    ///
    /// A frame is shown from the next turn of a scan on, so that the eye is opened a turn late.
    ///
    /// # Errors
    /// When the board cannot be spoken to.
    pub fn expose(&mut self) -> Result<Duration, LinkError> {
        let (opened, end) = exposure(self.elapsed(), self.turn(), None);
        let (opened, seen) = (self.moment(opened), self.moment(end));
        self.scheduler.run_until(opened)?;
        self.scheduler.link_mut().board().open_eyes_on_scans(opened);
        self.scheduler.run_until(seen)?;
        Ok(end)
    }

    /// The same until something else is due before `end`, though keys are looked at meanwhile. Whether it has seen a whole turn.
    ///
    /// # Errors
    /// When the board cannot be spoken to.
    pub fn watch(&mut self, end: Duration) -> Result<bool, LinkError> {
        let next = self.due_among(|due, _| due != Due::Poll).map(|(at, ..)| at).filter(|at| *at < end);
        let times = self.turn();
        let (opened, seen) = exposure(self.elapsed(), times, next);
        if seen - opened < times.0 || !self.poll_until(opened)? {
            return Ok(false);
        }
        let opened = self.scheduler.now();
        self.scheduler.link_mut().board().open_eyes_on_scans(opened);
        self.poll_until(seen)
    }

    /// The longest turn of a scan, and how much longer something of the frame before is seen.
    fn turn(&self) -> (Duration, Duration) {
        let scans = self.stages.iter().filter_map(|stage| self.scheduler.scan(stage.face));
        let (turn, ahead) = scans.map(|scan| (scan.turn, scan.ahead)).max().unwrap_or_default();
        (turn.into(), ahead.into())
    }

    /// Returns the pictures of the faces that play.
    pub fn pictures(&mut self) -> Vec<Picture<'p>> {
        let now = self.scheduler.now();
        let board = self.scheduler.link_mut().board();
        self.stages.iter().filter_map(|stage| board.picture(stage.face, now)).collect()
    }
}

impl<'p, L: OnBoard<'p>> Playing<'p> for Player<'p, L> {
    fn advance(&mut self, until: Duration) -> Result<bool, LinkError> {
        Player::advance(self, until)
    }

    fn skip_to(&mut self, at: Duration) -> Result<bool, LinkError> {
        Player::skip_to(self, at)
    }

    fn elapsed(&self) -> Duration {
        Player::elapsed(self)
    }

    fn act_time(&self) -> Duration {
        Player::act_time(self)
    }

    fn next_moment(&self) -> Option<Duration> {
        Player::next_moment(self)
    }

    fn expose(&mut self) -> Result<Duration, LinkError> {
        Player::expose(self)
    }

    fn watch(&mut self, end: Duration) -> Result<bool, LinkError> {
        Player::watch(self, end)
    }

    fn pictures(&mut self) -> Vec<Picture<'p>> {
        Player::pictures(self)
    }

    fn off(&mut self) -> Result<(), LinkError> {
        Player::off(self)
    }
}

/// A skip draws everything for this long before its moment: by then all buses are free again.
const DRAWN_BEFORE: Duration = Duration::from_secs(1);

/// How often keys are looked at that do something.
const POLL: Duration = Duration::from_millis(10);

/// Between two resends there is at least this, whatever the rig asks for, so that frames get through.
const LEAST_PAUSE: Duration = Duration::from_millis(1);
