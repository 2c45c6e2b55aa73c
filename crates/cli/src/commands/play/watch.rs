//! Playing on the whole screen: all faces, what goes on behind them, and keys to hold, step and hurry.

use std::cell::RefCell;
use std::collections::VecDeque;
use std::time::{Duration, Instant};

use crossterm::event::{KeyCode, KeyEvent};
use ratatui::Terminal as Canvas;
use ratatui::backend::CrosstermBackend;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use spare_tile_core::board::Board;
use spare_tile_core::board::link::{Glance, OnBoard};
use spare_tile_core::board::picture::Picture;
use spare_tile_core::bus::{Op, Reply, Role};
use spare_tile_core::plan::teller::Teller;
use spare_tile_core::plan::{DeviceId, Mount, Rig};
use spare_tile_core::play::Player;
use spare_tile_core::play::clock::Speed;
use spare_tile_core::play::reel::Program;
use spare_tile_core::units::counted;

use super::{LOOK_AT_FEED, follow_wall, take_values};
use crate::args::Base;
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::session::Session;
use crate::view::easel::{Pens, Surround, write_lines};
use crate::view::terminal::{Heard, Screen, Terminal, is_interrupt};
use crate::view::theatre;

const KEYS: [(&str, &str); 9] = [
    ("space", "hold, go on"),
    (", .", "a step back, on"),
    ("- +", "slower, faster"),
    ("left right", "a second back, on"),
    ("home", "begin again"),
    ("up down", "brightness"),
    ("1-8", "keys of the face"),
    ("o", "what is sent"),
    ("q", "leave"),
];

/// Pictures are drawn no more often than this: nobody sees more.
const LEAST_PAUSE: Duration = Duration::from_millis(16);
/// How often the clock of this computer and values from outside are looked at.
const LOOK: Duration = Duration::from_millis(100);
/// How long a key of the keyboard holds a key of the face down, which no terminal tells: long enough not to be taken for a bounce.
const PRESS: Duration = Duration::from_millis(60);
/// How far a seek goes.
const SEEK: Duration = Duration::from_secs(1);
/// How many lines the panel with what is sent has.
const SENT_LINES: u16 = 9;
/// The most speeds each way from the true one, each twice the one before.
const MOST_SPEED: u32 = 6;

/// What was sent last.
#[derive(Default)]
struct Sent {
    /// In words, the last at the end.
    lines: VecDeque<String>,
    /// When how many bytes went over the lines, for a second.
    bytes: VecDeque<(Duration, usize)>,
}

/// How a program is watched.
pub struct View<'v> {
    /// How long it plays; none where it goes on for good.
    pub length: Option<Duration>,
    /// Values that come meanwhile.
    pub feed: Option<&'v Feed>,
    /// The moment of the acts at which it begins.
    pub begins: Duration,
    /// What there is to say where nothing else is said.
    pub notice: &'v str,
    /// Whether it is to be read again.
    pub has_changed: &'v dyn Fn() -> bool,
}

impl<'v> View<'v> {
    /// From its beginning.
    pub fn of(length: Option<Duration>, feed: Option<&'v Feed>) -> Self {
        Self { length, feed, begins: Duration::ZERO, notice: "", has_changed: &|| false }
    }
}

/// How it ended, unless the person wants the program to end at once.
pub enum End {
    /// It was over, or the person left.
    Over,
    /// It is to be read again; the moment that it had come to.
    Changed(Duration),
}

/// Plays a program on the whole screen until it ends or the person leaves.
pub fn run(
    (rig, built): (&Rig, &Rig),
    program: &Program,
    view: View<'_>,
    session: &mut Session<'_>,
) -> Result<End, Failure> {
    let tellers: Vec<(&Mount, Teller<'_>)> =
        rig.faces.iter().map(|mount| (mount, Teller::new(mount))).collect();
    let sent = RefCell::new(Sent::default());
    let tell = |id: DeviceId, op: &Op<'_>, reply: &Reply| {
        let mut sent = sent.borrow_mut();
        let bytes: Vec<u8> = op.transfer.on_the_wire().collect();
        sent.bytes.push_back((reply.began.into(), bytes.len()));
        // Keys are asked for all the time, which would push out all that is worth reading.
        let mount = tellers.iter().find(|(mount, _)| mount.device == id && op.role != Role::Keys);
        if let Some((mount, teller)) = mount {
            if sent.lines.len() >= usize::from(SENT_LINES) {
                sent.lines.pop_front();
            }
            let shown: Vec<_> = bytes.iter().copied().take(8).collect();
            let more = if bytes.len() > shown.len() { " ..." } else { "" };
            let (name, hex) = (&mount.face.name, Base::Hex.write_all(&shown));
            let words = teller.of_transfer(&op.transfer);
            sent.lines.push_back(format!("{name}: {}  {hex}{more}  {words}", op.role.name()));
        }
    };
    let link = Glance { link: Board::built_as(rig, built), tell };
    let mut player = Player::of_program(rig, program, link)?;
    player.seek(view.begins);
    session.out.flush()?;
    let pens = Pens::of(session);
    let stage = Stage {
        player,
        program,
        view,
        sent: &sent,
        pens,
        pictures: Vec::new(),
        is_stale: true,
        has_panel: false,
        speed: 0,
        pressed: Vec::new(),
        brightness: vec![None; rig.faces.len()],
        message: String::new(),
    };
    stage.run(session)
}

/// A player and how it is watched.
struct Stage<'p, L: OnBoard<'p>> {
    player: Player<'p, L>,
    program: &'p Program,
    view: View<'p>,
    sent: &'p RefCell<Sent>,
    pens: Pens,
    /// What was seen last, and whether there is something new to be seen.
    pictures: Vec<Picture<'p>>,
    is_stale: bool,
    has_panel: bool,
    /// How many times twice as fast as time goes; less than none is slower.
    speed: i32,
    /// Keys of a face that are down, and until when.
    pressed: Vec<(Duration, usize, usize)>,
    /// The brightness step of each face that was set by hand.
    brightness: Vec<Option<u8>>,
    message: String,
}

impl<'p, L: OnBoard<'p>> Stage<'p, L> {
    fn run(mut self, session: &mut Session<'_>) -> Result<End, Failure> {
        let terminal = Terminal::take(Screen::Whole)?;
        let mut canvas = Canvas::new(CrosstermBackend::new(&mut session.out))?;
        let began = Instant::now();
        let end = loop {
            let now = began.elapsed();
            self.let_go(now);
            follow_wall(&mut self.player, now);
            take_values(&mut self.player, self.view.feed, now);
            let now = began.elapsed().max(self.player.elapsed());
            self.is_stale |= self.player.advance(now)?;
            if self.view.length.is_some_and(|length| self.player.act_time() >= length) {
                break Some(End::Over);
            }
            if (self.view.has_changed)() {
                break Some(End::Changed(self.player.act_time()));
            }
            if std::mem::take(&mut self.is_stale) {
                self.player.expose(None)?;
                self.pictures = self.player.pictures();
            }
            canvas.draw(|frame| self.draw(frame.area(), frame.buffer_mut()))?;
            // Deadlines count from the beginning; what is late by then is left out, and never queued.
            let pause = if self.view.feed.is_some() { LOOK_AT_FEED } else { LOOK };
            // Looking took the buses ahead: they wait until time has come up.
            let least = (began.elapsed() + LEAST_PAUSE).max(self.player.elapsed());
            let next =
                self.player.next_moment().map_or(least + pause, |next| next.max(least).min(least + pause));
            let left = || Some(next.saturating_sub(began.elapsed()));
            match terminal.hear(left)? {
                None | Some(Heard::Mouse(_)) => {}
                Some(Heard::Interrupt) => break None,
                Some(Heard::Key(key)) if is_interrupt(key) => break None,
                Some(Heard::Key(key)) if matches!(key.code, KeyCode::Char('q') | KeyCode::Esc) => {
                    break Some(End::Over);
                }
                Some(Heard::Key(key)) => self.key(key, began.elapsed())?,
                Some(Heard::Redraw) => {
                    let size = canvas.size()?;
                    canvas.resize(size.into())?;
                }
            }
        };
        self.player.off()?;
        end.ok_or_else(Failure::interrupted)
    }

    fn key(&mut self, key: KeyEvent, now: Duration) -> Outcome {
        self.message.clear();
        match key.code {
            KeyCode::Char(' ') => self.player.hold(!self.player.transport().is_held()),
            KeyCode::Char('.') => {
                self.player.hold(true);
                match self.player.next_change() {
                    Some(next) => self.player.seek(next),
                    None => "nothing changes any more".clone_into(&mut self.message),
                }
            }
            KeyCode::Char(',') => {
                self.player.hold(true);
                match self.player.change_before() {
                    Some(before) => self.player.seek(before),
                    None => "this is the beginning".clone_into(&mut self.message),
                }
            }
            KeyCode::Char('-') => self.hurry(-1),
            KeyCode::Char('+' | '=') => self.hurry(1),
            KeyCode::Left => self.player.seek(self.player.act_time().saturating_sub(SEEK)),
            KeyCode::Right => self.player.seek(self.player.act_time() + SEEK),
            KeyCode::Home => self.player.seek(Duration::ZERO),
            KeyCode::Up => self.brighten(1)?,
            KeyCode::Down => self.brighten(-1)?,
            KeyCode::Char('o') => self.has_panel = !self.has_panel,
            KeyCode::Char(digit @ '1'..='8') => self.press(usize::from(digit as u8 - b'1'), now),
            _ => {}
        }
        Ok(())
    }

    fn hurry(&mut self, by: i32) {
        let most = MOST_SPEED as i32;
        self.speed = (self.speed + by).clamp(-most, most);
        let power = 2_u32.pow(self.speed.unsigned_abs());
        let speed = if self.speed >= 0 {
            Speed { shown: power, passed: 1 }
        } else {
            Speed { shown: 1, passed: power }
        };
        self.player.go_at(speed);
    }

    fn brighten(&mut self, by: i16) -> Outcome {
        let rig = self.player.scheduler().rig();
        let mut told = Vec::new();
        for (face, mount) in rig.faces.iter().enumerate() {
            let Some(most) = mount.drive.display().max_brightness() else { continue };
            let now = self.brightness[face].unwrap_or(most);
            let step = (i16::from(now) + by).clamp(0, i16::from(most)) as u8;
            self.brightness[face] = Some(step);
            self.player.scheduler_mut().brightness(face, step)?;
            self.is_stale = true;
            told.push(format!("{} {step} of {most}", mount.face.name));
        }
        self.message = match told.is_empty() {
            true => "no face has a brightness".to_owned(),
            false => format!("brightness: {}", told.join(", ")),
        };
        Ok(())
    }

    /// Presses a key of the first face that has any.
    fn press(&mut self, button: usize, now: Duration) {
        let rig = self.player.scheduler().rig();
        let mut faces = rig.faces.iter().enumerate();
        let found = faces.find(|(_, mount)| !mount.drive.display().button_names().is_empty());
        let Some((face, mount)) = found else {
            "no face has keys".clone_into(&mut self.message);
            return;
        };
        let names = mount.drive.display().button_names();
        let Some(name) = names.get(button) else {
            self.message = format!("face {} has {}", mount.face.name, counted(names.len(), "key", "keys"));
            return;
        };
        self.message = format!("{}.{name}", mount.face.name);
        self.player.scheduler_mut().link_mut().board().press(face, button, true);
        self.pressed.push((now + PRESS, face, button));
    }

    /// Lets keys go whose time is over.
    fn let_go(&mut self, now: Duration) {
        let board = self.player.scheduler_mut().link_mut().board();
        self.pressed.retain(|(until, face, button)| {
            let is_over = *until <= now;
            if is_over {
                board.press(*face, *button, false);
            }
            !is_over
        });
    }

    fn draw(&mut self, window: Rect, buffer: &mut Buffer) {
        let title = self.title();
        let message = if self.message.is_empty() { self.view.notice } else { &self.message };
        let surround = Surround { title: &title, message, keys: &KEYS };
        surround.draw(window, buffer);
        let mut middle = surround.middle(window);
        if self.has_panel && middle.height > SENT_LINES + 4 {
            middle.height -= SENT_LINES + 1;
            let panel = Rect { y: middle.y + middle.height + 1, height: SENT_LINES, ..middle };
            self.draw_panel(panel, buffer);
        }
        theatre::draw(&self.pictures, middle, buffer, self.pens);
    }

    /// The time, the speed, what plays, and how much goes over the lines.
    fn title(&self) -> String {
        let act = self.player.act_time();
        let speed = match self.speed {
            _ if self.player.transport().is_held() => "held".to_owned(),
            0 => "as time goes".to_owned(),
            speed if speed > 0 => format!("{} times as fast", 2_u32.pow(speed.unsigned_abs())),
            speed => format!("1/{} as fast", 2_u32.pow(speed.unsigned_abs())),
        };
        let mut sent = self.sent.borrow_mut();
        let elapsed = Duration::from(self.player.scheduler().now());
        while sent.bytes.front().is_some_and(|(at, _)| *at + Duration::from_secs(1) < elapsed) {
            sent.bytes.pop_front();
        }
        let bytes: usize = sent.bytes.iter().map(|(_, bytes)| bytes).sum();
        let name = self.program.name.as_ref().map_or_else(String::new, |name| format!("{name}   "));
        format!(
            "{name}{}   {speed}   {} a second{}",
            clock(act),
            counted(bytes, "byte", "bytes"),
            self.scans()
        )
    }

    /// How often faces are scanned by the controller.
    fn scans(&self) -> String {
        let faces = self.player.scheduler().rig().faces.iter();
        let scanned = faces.filter_map(|mount| Some((mount, mount.drive.display().scan()?)));
        let words = scanned.map(|(mount, scan)| {
            format!("   {} scanned at {:.0} Hz", mount.face.name, 1e9 / scan.turn.0.max(1) as f64)
        });
        words.collect()
    }

    /// The acts that play, the last operations in words, and the level of each line.
    fn draw_panel(&mut self, area: Rect, buffer: &mut Buffer) {
        let act = self.player.act_time();
        let rig = self.player.scheduler().rig();
        let mut lines = Vec::new();
        let plays = self
            .program
            .plan
            .iter()
            .filter(|planned| planned.begins <= act && planned.ends.is_none_or(|ends| act < ends));
        let plays: Vec<_> =
            plays.map(|planned| format!("{} {}", rig.faces[planned.face].face.name, planned.kind)).collect();
        if !plays.is_empty() {
            lines.push(format!("plays: {}", plays.join(", ")));
        }
        let board = self.player.scheduler_mut().link_mut().board();
        for mount in &rig.faces {
            let levels = board.levels_of(mount);
            let words = mount.lines.iter().zip(levels).map(|(line, level)| {
                let level = level.map_or("-", |level| if level { "1" } else { "0" });
                format!("{} {level}", line.role)
            });
            lines.push(format!("{}: {}", mount.face.name, words.collect::<Vec<_>>().join("  ")));
        }
        let sent = self.sent.borrow();
        let room = usize::from(area.height).saturating_sub(lines.len());
        lines.extend(sent.lines.iter().skip(sent.lines.len().saturating_sub(room)).cloned());
        write_lines(buffer, area, lines.iter().map(|line| (line.as_str(), ratatui::style::Style::new())));
    }
}

/// A time as a person reads it: minutes, seconds and thousandths.
fn clock(time: Duration) -> String {
    let seconds = time.as_secs();
    format!("{}:{:02}.{:03}", seconds / 60, seconds % 60, time.subsec_millis())
}
