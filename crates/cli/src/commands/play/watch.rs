//! Playing on the whole screen: all faces, what goes on behind them, and keys to hold, step and hurry.

use std::cell::RefCell;
use std::collections::VecDeque;
use std::io::Write;
use std::time::{Duration, Instant};

use crossterm::event::{KeyCode, KeyEvent};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use spare_tile_core::board::Board;
use spare_tile_core::board::OnBoard;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::bus::{Op, Ops, Reply, Role, Sink};
use spare_tile_core::link::Glance;
use spare_tile_core::plan::teller::Teller;
use spare_tile_core::plan::{BothRigs, ButtonId, DeviceId, Mount};
use spare_tile_core::play::Player;
use spare_tile_core::play::clock::Speed;
use spare_tile_core::play::reel::Program;
use spare_tile_core::units::counted;

use super::ops::{Telling, Told};
use super::outlet::{self, End, Outlet, Pause, Terms};
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::session::Session;
use crate::view::easel::{Pens, Surround, write_lines};
use crate::view::live::Woken;
use crate::view::terminal::{Heard, is_interrupt};
use crate::view::theatre;
use crate::view::whole::WholeScreen;

const KEYS: [(&str, &str); 9] = [
    ("space", "hold, go on"),
    (", .", "a step back, on"),
    ("- +", "slower, faster"),
    ("left right", "a second back, on"),
    ("home", "begin again"),
    ("up down", "brightness"),
    ("1-9", "the rig's buttons"),
    ("o", "what is sent"),
    ("q", "leave"),
];

/// Pictures are drawn no more often than this: nobody sees more.
const LEAST_PAUSE: Duration = Duration::from_millis(16);
/// How long a key of the keyboard holds a key of the face down, which no terminal tells: long enough not to be taken for a bounce.
const PRESS: Duration = Duration::from_millis(60);
/// How far a seek goes.
const SEEK: Duration = Duration::from_secs(1);
/// How many operations are remembered, and how many of them the panel has room for at least.
const MOST_SENT: usize = 16;
const LEAST_SENT: u16 = 4;
/// The limits of the speed, as a multiple of real time.
const MOST_TIMES: f64 = 64.0;

/// The last operations.
#[derive(Default)]
struct Sent {
    /// One operation each, and whose it was; the last at the end.
    ops: VecDeque<(DeviceId, Ops)>,
    /// When how many bytes went over the lines, for a second.
    bytes: VecDeque<(Duration, usize)>,
}

impl Sent {
    fn note(&mut self, id: DeviceId, op: &Op<'_>, reply: &Reply) {
        self.bytes.push_back((reply.began.into(), op.transfer.on_the_wire().count()));
        // Buttons are polled all the time, which would push out everything else.
        if op.role == Role::Buttons {
            return;
        }
        let oldest = if self.ops.len() < MOST_SENT { None } else { self.ops.pop_front() };
        let mut kept = oldest.map(|(_, ops)| ops).unwrap_or_default();
        kept.clear();
        kept.put(op.role, op.transfer);
        self.ops.push_back((id, kept));
    }

    /// How many bytes went over the lines in the second before.
    fn rate(&mut self, now: Duration) -> usize {
        while self.bytes.front().is_some_and(|(at, _)| *at + Duration::from_secs(1) < now) {
            self.bytes.pop_front();
        }
        self.bytes.iter().map(|(_, bytes)| bytes).sum()
    }

    /// The last operations in words, so many at most.
    fn lines(&self, telling: &Telling<'_>, most: usize) -> Vec<String> {
        let last = self.ops.iter().skip(self.ops.len().saturating_sub(most));
        last.filter_map(|(id, ops)| Some(words_of(telling.of_device(*id)?, &ops.get(0)?))).collect()
    }
}

/// An operation on a line: whose it is, what it is for, its bytes and what they say.
fn words_of((mount, teller): &(&Mount, Teller<'_>), op: &Op<'_>) -> String {
    const MOST_BYTES: usize = 8;
    let Told { role, bytes, note, .. } = Told::of(teller, op, &Reply::default());
    // Two figures a byte, and a blank between.
    let (hex, more) = match bytes.get(..3 * MOST_BYTES) {
        Some(first) => (first, "..."),
        None => (bytes.as_str(), ""),
    };
    format!("{}: {role}  {hex}{more}  {note}", mount.face.name)
}

/// How a program is watched.
pub struct View<'v> {
    /// The playing time; `None` if it plays forever.
    pub length: Option<Duration>,
    /// Values that come meanwhile.
    pub feed: Option<&'v Feed>,
    /// How fast it plays at first.
    pub speed: Speed,
    /// The moment of the acts at which it begins.
    pub begins: Duration,
    /// The usual message.
    pub notice: &'v str,
    /// True if it is to be read again.
    pub has_changed: &'v dyn Fn() -> bool,
}

impl<'v> View<'v> {
    /// From its beginning.
    pub fn of(length: Option<Duration>, feed: Option<&'v Feed>) -> Self {
        Self { length, feed, speed: Speed::TRUE, begins: Duration::ZERO, notice: "", has_changed: &|| false }
    }
}

/// Plays a program on the whole screen until it ends or the person leaves.
pub fn run(
    rigs: BothRigs<'_>,
    program: &Program,
    view: View<'_>,
    session: &mut Session<'_>,
) -> Result<End, Failure> {
    let rig = rigs.described;
    let sent = RefCell::new(Sent::default());
    let tell = |id: DeviceId, op: &Op<'_>, reply: &Reply| sent.borrow_mut().note(id, op, reply);
    let link = Glance { link: Board::built_as(rigs).at_rest(), tell };
    let mut player = Player::of_program(rig, program, link)?;
    let look = outlet::looking(view.feed);
    let terms = Terms { has_changed: view.has_changed, ..Terms::new(view.length, view.feed, &look) };
    player.seek(view.begins);
    player.go_at(view.speed);
    session.out.flush()?;
    let whole = Whole {
        began: Instant::now(),
        program,
        speed: view.speed,
        notice: view.notice,
        sent: &sent,
        telling: Telling::of(rig),
        pens: Pens::of(session),
        pictures: Vec::new(),
        is_stale: false,
        drawn: None,
        plan: None,
        has_panel: false,
        fingers: Vec::new(),
        brightness: vec![None; rig.faces.len()],
        message: String::new(),
    };
    let mut filled = Filled { screen: WholeScreen::take(session.out.unguarded())?, whole };
    let end = outlet::play(&mut player, &mut filled, &terms)?;
    player.off()?;
    Ok(end)
}

/// A button that was pressed by hand.
struct Finger {
    button: ButtonId,
    is_down: bool,
    /// Until when it stays as it is, in the time of playing.
    stays_until: Duration,
    /// How often it is still to be moved, down or up.
    moves: usize,
}

/// The content of the whole screen.
struct Whole<'p> {
    began: Instant,
    program: &'p Program,
    notice: &'p str,
    sent: &'p RefCell<Sent>,
    telling: Telling<'p>,
    pens: Pens,
    /// The last picture, and whether something else changes what it looks like.
    pictures: Vec<Picture<'p>>,
    is_stale: bool,
    /// The faces as they were drawn last, and the names of those that there was no room for.
    drawn: Option<(Buffer, String)>,
    /// Where they are; it depends on the window alone.
    plan: Option<theatre::Plan>,
    has_panel: bool,
    speed: Speed,
    /// The keys of faces that were pressed, each once.
    fingers: Vec<Finger>,
    /// The brightness step of each face that was set by hand.
    brightness: Vec<Option<u8>>,
    message: String,
}

/// The whole screen, with what is shown on it.
struct Filled<'p, W: Write> {
    screen: WholeScreen<W>,
    whole: Whole<'p>,
}

impl<'p, L: OnBoard<'p>, W: Write> Outlet<Player<'p, L>> for Filled<'p, W> {
    fn elapsed(&self) -> Duration {
        self.whole.began.elapsed()
    }

    fn act(&mut self, player: &mut Player<'p, L>) {
        self.whole.move_fingers(player);
    }

    fn complain(&mut self, wrong: String) {
        self.whole.message = wrong;
    }

    fn draw(&mut self, player: &mut Player<'p, L>, is_new: bool) -> Outcome {
        if is_new {
            self.whole.pictures = player.pictures();
            self.whole.drawn = None;
        }
        self.screen.draw(|window, buffer| self.whole.draw(window, buffer, player))?;
        Ok(())
    }

    fn wait(&mut self, player: &mut Player<'p, L>, pause: Pause) -> Result<Woken, Failure> {
        let due = pause.due.into_iter().chain(self.whole.next_finger()).min();
        let end = Pause { due, ..pause }.end(self.whole.began.elapsed(), LEAST_PAUSE);
        let left = || Some(end.saturating_sub(self.whole.began.elapsed()));
        match self.screen.hear(left)? {
            None | Some(Heard::Mouse(_) | Heard::Redraw) => {}
            Some(Heard::Interrupt) => return Ok(Woken::Interrupt),
            Some(Heard::Key(key)) if is_interrupt(key) => return Ok(Woken::Interrupt),
            Some(Heard::Key(key)) if matches!(key.code, KeyCode::Char('q') | KeyCode::Esc) => {
                return Ok(Woken::Quit);
            }
            Some(Heard::Key(key)) => self.whole.key(key, player)?,
        }
        Ok(if std::mem::take(&mut self.whole.is_stale) { Woken::Redraw } else { Woken::Due })
    }
}

impl<'p> Whole<'p> {
    fn key<L: OnBoard<'p>>(&mut self, key: KeyEvent, player: &mut Player<'p, L>) -> Outcome {
        self.message.clear();
        match key.code {
            KeyCode::Char(' ') => player.hold(!player.transport().is_held()),
            KeyCode::Char('.') => {
                player.hold(true);
                match player.next_change() {
                    Some(next) => player.seek(next),
                    None => "nothing changes any more".clone_into(&mut self.message),
                }
            }
            KeyCode::Char(',') => {
                player.hold(true);
                match player.change_before() {
                    Some(before) => player.seek(before),
                    None => "this is the beginning".clone_into(&mut self.message),
                }
            }
            KeyCode::Char('-') => self.hurry(false, player),
            KeyCode::Char('+' | '=') => self.hurry(true, player),
            KeyCode::Left => player.seek(player.act_time().saturating_sub(SEEK)),
            KeyCode::Right => player.seek(player.act_time() + SEEK),
            KeyCode::Home => player.seek(Duration::ZERO),
            KeyCode::Up => self.brighten(1, player)?,
            KeyCode::Down => self.brighten(-1, player)?,
            KeyCode::Char('o') => self.has_panel = !self.has_panel,
            KeyCode::Char(digit @ '1'..='9') => self.press(usize::from(digit as u8 - b'1'), player),
            _ => {}
        }
        Ok(())
    }

    /// Twice as fast, or half as fast.
    fn hurry<L: OnBoard<'p>>(&mut self, faster: bool, player: &mut Player<'p, L>) {
        let Speed { shown, passed } = self.speed;
        let (shown, passed) = match faster {
            true if passed % 2 == 0 => (shown, passed / 2),
            true => (shown.saturating_mul(2), passed),
            false if shown % 2 == 0 => (shown / 2, passed),
            false => (shown, passed.saturating_mul(2)),
        };
        let times = f64::from(shown) / f64::from(passed);
        if (1.0 / MOST_TIMES..=MOST_TIMES).contains(&times) {
            self.speed = Speed { shown, passed };
            player.go_at(self.speed);
        }
    }

    fn brighten<L: OnBoard<'p>>(&mut self, by: i16, player: &mut Player<'p, L>) -> Outcome {
        let rig = player.scheduler().rig();
        let mut told = Vec::new();
        for (face, mount) in rig.faces.iter().enumerate() {
            let Some(most) = mount.drive.display().max_brightness() else { continue };
            let now = self.brightness[face].unwrap_or(most);
            let step = (i16::from(now) + by).clamp(0, i16::from(most)) as u8;
            self.brightness[face] = Some(step);
            player.scheduler_mut().brightness(face, step)?;
            self.is_stale = true;
            told.push(format!("{} {step} of {most}", mount.face.name));
        }
        self.message = match told.is_empty() {
            true => "no face has a brightness".to_owned(),
            false => format!("brightness: {}", told.join(", ")),
        };
        Ok(())
    }

    /// Presses a button by its place among those of the rig.
    fn press<L: OnBoard<'p>>(&mut self, place: usize, player: &mut Player<'p, L>) {
        let rig = player.scheduler().rig();
        let Some(button) = rig.all_buttons().nth(place) else {
            self.message = match rig.all_buttons().count() {
                0 => "the rig has no buttons".to_owned(),
                count => format!("the rig has {}", counted(count, "button", "buttons")),
            };
            return;
        };
        self.message = rig.button_name(button).unwrap_or_default();
        let known = self.fingers.iter().position(|finger| finger.button == button);
        let place = known.unwrap_or_else(|| {
            self.fingers.push(Finger { button, is_down: false, stays_until: Duration::ZERO, moves: 0 });
            self.fingers.len() - 1
        });
        self.fingers[place].moves += 2;
        self.move_fingers(player);
    }

    /// Presses keys and lets them go when it is time. Each stays as it is for long enough, however late that comes: in the time of
    /// playing, which is what the controller sees of it.
    fn move_fingers<L: OnBoard<'p>>(&mut self, player: &mut Player<'p, L>) {
        let now = player.elapsed();
        let board = player.scheduler_mut().link_mut().board();
        for finger in self.fingers.iter_mut().filter(|finger| finger.moves > 0 && finger.stays_until <= now) {
            finger.is_down = !finger.is_down;
            finger.moves -= 1;
            finger.stays_until = now + PRESS;
            board.press(finger.button, finger.is_down);
        }
    }

    /// When a key is to be moved next.
    fn next_finger(&self) -> Option<Duration> {
        let to_move = self.fingers.iter().filter(|finger| finger.moves > 0);
        to_move.map(|finger| finger.stays_until).min()
    }

    fn draw<L: OnBoard<'p>>(&mut self, window: Rect, buffer: &mut Buffer, player: &mut Player<'p, L>) {
        let title = self.title(player);
        let blank = Surround { title: &title, message: "", keys: &KEYS };
        let mut middle = blank.middle(window);
        if self.has_panel {
            let wanted = 1 + player.scheduler().rig().faces.len() as u16 + LEAST_SENT;
            let height = wanted.min(middle.height / 2);
            middle.height -= height;
            let panel = Rect { y: middle.y + middle.height, height, ..middle };
            self.draw_panel(panel, buffer, player);
        }
        let cut = self.draw_faces(middle, buffer);
        let message = match (self.message.as_str(), self.notice) {
            ("", "") if !cut.is_empty() => format!("no room for {cut}: make the window larger"),
            ("", notice) => notice.to_owned(),
            (message, _) => message.to_owned(),
        };
        Surround { message: &message, ..blank }.draw(window, buffer);
    }

    /// Draws unchanged faces again; returns the names of faces that do not fit.
    fn draw_faces(&mut self, area: Rect, buffer: &mut Buffer) -> String {
        if self.drawn.as_ref().is_some_and(|(drawn, _)| drawn.area != area) {
            self.drawn = None;
            self.plan = None;
        }
        let (drawn, cut) = self.drawn.get_or_insert_with(|| {
            let mut drawn = Buffer::empty(area);
            let plan = self.plan.get_or_insert_with(|| {
                let faces: Vec<_> = self.pictures.iter().map(|picture| picture.face).collect();
                theatre::Plan::of(&faces, usize::from(area.width), usize::from(area.height))
            });
            let cut = plan.draw(&self.pictures, area, &mut drawn, self.pens).join(", ");
            (drawn, cut)
        });
        buffer.merge(drawn);
        cut.clone()
    }

    /// The time, the speed, what plays, and how much goes over the lines.
    fn title<L: OnBoard<'p>>(&self, player: &Player<'p, L>) -> String {
        let act = player.act_time();
        let speed = match self.speed {
            _ if player.transport().is_held() => "held".to_owned(),
            Speed { shown, passed } if shown == passed => "as time goes".to_owned(),
            Speed { shown, passed: 1 } => format!("{shown} times as fast"),
            Speed { shown, passed } if shown > passed => {
                format!("{} times as fast", f64::from(shown) / f64::from(passed))
            }
            Speed { shown, passed } => format!("{shown}/{passed} as fast"),
        };
        let bytes = self.sent.borrow_mut().rate(player.scheduler().now().into());
        let name = self.program.name.as_ref().map_or_else(String::new, |name| format!("{name}   "));
        format!(
            "{name}{}   {speed}   {} a second{}",
            clock(act),
            counted(bytes, "byte", "bytes"),
            self.scans(player)
        )
    }

    /// How often faces are scanned by the controller.
    fn scans<L: OnBoard<'p>>(&self, player: &Player<'p, L>) -> String {
        let faces = player.scheduler().rig().faces.iter();
        let scanned = faces.filter_map(|mount| Some((mount, mount.drive.display().scan()?)));
        let words = scanned.map(|(mount, scan)| {
            format!("   {} scanned at {:.0} Hz", mount.face.name, 1e9 / scan.turn.0.max(1) as f64)
        });
        words.collect()
    }

    /// The acts that play, of each face the level of every line and what its parts hold, and the last operations in words.
    fn draw_panel<L: OnBoard<'p>>(&mut self, area: Rect, buffer: &mut Buffer, player: &mut Player<'p, L>) {
        let act = player.act_time();
        let rig = player.scheduler().rig();
        let mut lines = Vec::new();
        let plays = self.program.plan.iter().filter(|planned| planned.plays_at(act));
        let plays: Vec<_> =
            plays.map(|planned| format!("{} {}", rig.faces[planned.face].face.name, planned.kind)).collect();
        if !plays.is_empty() {
            lines.push(format!("plays: {}", plays.join(", ")));
        }
        let board = player.scheduler_mut().link_mut().board();
        for (place, mount) in rig.faces.iter().enumerate() {
            let levels = board.levels_of(mount);
            let levels = mount.lines.iter().zip(levels).map(|(line, level)| {
                let level = level.map_or("-", |level| if level { "1" } else { "0" });
                format!("{} {level}", line.role)
            });
            let levels = levels.collect::<Vec<_>>().join("  ");
            let registers = board.end(place).and_then(|end| end.eye().model().registers());
            let registers = registers.map_or_else(String::new, |words| format!("   {words}"));
            lines.push(format!("{}: {levels}{registers}", mount.face.name));
        }
        let room = usize::from(area.height).saturating_sub(lines.len());
        lines.extend(self.sent.borrow().lines(&self.telling, room));
        write_lines(buffer, area, lines.iter().map(|line| (line.as_str(), ratatui::style::Style::new())));
    }
}

/// A time as a person reads it: minutes, seconds and thousandths.
fn clock(time: Duration) -> String {
    let seconds = time.as_secs();
    format!("{}:{:02}.{:03}", seconds / 60, seconds % 60, time.subsec_millis())
}
