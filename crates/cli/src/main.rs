//! The program `spare-tile`.

fn main() -> std::process::ExitCode {
    spare_tile::run()
}
