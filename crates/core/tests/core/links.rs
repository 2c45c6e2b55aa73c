//! Playing over a link that is not a board, with a board beside it for the picture.

use std::time::Duration;

use spare_tile_core::board::Board;
use spare_tile_core::bus::{Op, Reply};
use spare_tile_core::content::Content;
use spare_tile_core::content::text::Align;
use spare_tile_core::link::{FanOut, Link, LinkError, LinkErrorKind};
use spare_tile_core::plan::{DeviceId, Rig};
use spare_tile_core::play::still::Still;
use spare_tile_core::play::{Player, Reel, Track};
use spare_tile_core::units::Nanos;

use crate::common::rig;

/// Stands in for hardware: it is as fast as the board, and fails after a number of operations.
struct Hardware<'r> {
    board: Board<'r>,
    sent: usize,
    lost_after: usize,
    closed: bool,
}

impl<'r> Hardware<'r> {
    fn new(rig: &'r Rig, lost_after: usize) -> Self {
        Self { board: Board::new(rig), sent: 0, lost_after, closed: false }
    }
}

impl Link for Hardware<'_> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        if self.sent == self.lost_after {
            return Err(LinkError::new(LinkErrorKind::Disconnected, "the adapter is gone"));
        }
        self.sent += 1;
        self.board.transfer(device, op)
    }

    fn free_at(&self, device: DeviceId) -> Nanos {
        self.board.free_at(device)
    }

    fn close(&mut self) -> Result<(), LinkError> {
        self.closed = true;
        Ok(())
    }
}

#[test]
fn a_player_plays_on_hardware_and_the_board_beside_it_shows_what_was_sent() {
    let rig = rig(include_str!("../../../cli/demo/gauge.toml"));
    let content = Content::Text { words: "48".to_owned(), align: Align::Right };
    let reel = Reel { tracks: vec![Track { face: 0, act: Box::new(Still(content)) }] };
    let link = |lost_after| FanOut { first: Hardware::new(&rig, lost_after), second: Board::new(&rig) };
    let mut player = Player::new(&rig, &reel, link(usize::MAX)).unwrap();
    player.advance(Duration::from_secs(1)).unwrap();
    player.expose().unwrap();
    assert_eq!(player.pictures()[0].reading().trim(), "48");
    let both = player.scheduler_mut().link_mut();
    // Turns that repeat are skipped on a board; hardware is sent every slot: 4 digits at 120 Hz or faster.
    assert!(both.first.sent > 480, "{}", both.first.sent);
    both.close().unwrap();
    assert!(both.first.closed);

    let mut player = Player::new(&rig, &reel, link(100)).unwrap();
    let lost = player.advance(Duration::from_secs(1)).unwrap_err();
    assert_eq!((lost.kind, lost.to_string().as_str()), (LinkErrorKind::Disconnected, "the adapter is gone"));
}
