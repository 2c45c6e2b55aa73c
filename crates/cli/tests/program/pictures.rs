//! Pictures as they come: photographs, drawings and moving ones become dots.

use crate::folder::Folder;

/// A grey picture as text: its size, and the levels of its pixels.
fn grey(width: usize, height: usize, level: impl Fn(usize, usize) -> u8) -> String {
    let pixels = (0..height).flat_map(|y| (0..width).map(move |x| (x, y)));
    let levels: Vec<_> = pixels.map(|(x, y)| level(x, y).to_string()).collect();
    format!("P2 {width} {height} 255\n{}\n", levels.join(" "))
}

/// The rows of the first frame.
fn rows(folder: &Folder, line: &str) -> Vec<String> {
    let answer = folder.json(line);
    let rows = answer["frames"][0]["rows"].as_array().unwrap();
    rows.iter().map(|row| row.as_str().unwrap().to_owned()).collect()
}

#[test]
fn a_photograph_is_brought_down_to_dots() {
    let folder = Folder::landing();
    // Light rises from the left to the right.
    folder.write("dawn.pgm", grey(64, 16, |x, _| (x * 4) as u8));
    // Half of the perceived brightness is level 128, in the middle.
    assert_eq!(rows(&folder, "dots dawn.pgm --size 8x2"), ["....####"; 2]);
    assert_eq!(rows(&folder, "dots dawn.pgm --size 8x2 --threshold 75%"), ["......##"; 2]);
    assert_eq!(rows(&folder, "dots dawn.pgm --size 8x2 --crop 32,0,32x8"), ["########"; 2]);
    assert_eq!(rows(&folder, "dots dawn.pgm --size 4x4"), ["..##"]);
    assert_eq!(rows(&folder, "dots dawn.pgm --size 4x4 --lay stretch"), ["..##"; 4]);
    // Covered, only the middle of it is seen: columns 24 to 40.
    assert_eq!(rows(&folder, "dots dawn.pgm --size 4x4 --lay cover"), ["..##"; 4]);
    for dither in ["ordered", "diffusion"] {
        let rows = rows(&folder, &format!("dots dawn.pgm --size 32x8 --dither {dither}"));
        let lit =
            |from: usize| -> usize { rows.iter().map(|row| row[from..from + 8].matches('#').count()).sum() };
        // Each quarter lights as many of its 64 dots as it has light.
        let counts = [lit(0), lit(8), lit(16), lit(24)];
        for (count, share) in counts.into_iter().zip([0.017, 0.117, 0.349, 0.738]) {
            assert!((count as f64 - 64.0 * share).abs() < 6.0, "{dither}: {counts:?}");
        }
    }
    // The picture on a face is the one that the command reports.
    let shown = folder.json("show --picture dawn.pgm --dither ordered --rig board.toml");
    let told = rows(&folder, "dots dawn.pgm --dither ordered --size 32x8");
    assert_eq!(shown["dots"], serde_json::json!(told));
}

#[test]
fn a_small_drawing_stays_dot_for_dot() {
    let folder = Folder::landing();
    // In PBM a 1 is ink, which is dark.
    folder.write("tick.pbm", "P1 5 3\n1 1 1 1 0\n0 1 1 0 1\n1 0 0 1 1\n");
    let drawn = ["....#", "#..#.", ".##.."];
    assert_eq!(rows(&folder, "dots tick.pbm"), drawn);
    let shown = folder.json("show --sprite tick.pbm --rig board.toml");
    assert_eq!(shown["dots"][1].as_str().unwrap(), format!("{:.<32}", drawn[1]));
    folder.write("flag.ppm", "P3 4 1 255\n255 0 0 0 0 255 255 255 255 30 20 10\n");
    assert_eq!(rows(&folder, "dots flag.ppm --colours"), ["rb#."]);
    assert_eq!(rows(&folder, "dots flag.ppm"), ["..#."]);
}

#[test]
fn a_moving_picture_keeps_its_time() {
    let folder = Folder::landing();
    let mut bytes = Vec::new();
    let mut encoder = gif::Encoder::new(&mut bytes, 3, 1, &[0, 0, 0, 255, 255, 255]).unwrap();
    for (place, delay) in [(0, 12), (1, 0), (2, 40)] {
        let mut dots = vec![0; 3];
        dots[place] = 1;
        let frame = gif::Frame { width: 3, height: 1, delay, buffer: dots.into(), ..gif::Frame::default() };
        encoder.write_frame(&frame).unwrap();
    }
    drop(encoder);
    folder.write("walk.gif", &bytes);
    let sprite = "dots 3x1 120ms\nframe\n#..\nframe 100ms\n.#.\nframe 400ms\n..#\n";
    assert_eq!(folder.answer("dots walk.gif"), sprite);
    // Its output is a sprite file with the same content.
    folder.answer("dots walk.gif --out walk.dots");
    assert!(folder.read("walk.dots").starts_with(sprite));
    assert_eq!(folder.answer("dots walk.dots"), sprite);
    let played = |file: &str| folder.answer(&format!("play sprite {file} --rig board.toml --json"));
    assert_eq!(played("walk.gif"), played("walk.dots"));
}

#[test]
fn what_is_not_covered_is_dark() {
    let folder = Folder::landing();
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, 2, 1);
    encoder.set_color(png::ColorType::Rgba);
    let mut writer = encoder.write_header().unwrap();
    writer.write_image_data(&[255, 255, 255, 255, 255, 255, 255, 40]).unwrap();
    writer.finish().unwrap();
    folder.write("pane.png", &bytes);
    assert_eq!(rows(&folder, "dots pane.png"), ["#."]);
}

#[test]
fn sprites_are_put_together() {
    let folder = Folder::empty();
    folder.write("a.dots", "dots 4x1\nframe\n##..\nframe\n...#\n");
    folder.write("b.dots", "dots 3x1\nframe\n.##\n");
    let by = |how: &str| rows(&folder, &format!("dots a.dots --with b.dots --combine {how}")).remove(0);
    assert_eq!(["or", "and", "xor", "mask"].map(by), ["###.", ".#..", "#.#.", ".#.."]);
    // The second begins again beside the other frames of the first.
    let both = folder.json("dots a.dots --with b.dots");
    assert_eq!(both["frames"][1]["rows"][0], ".###");
    // First together, then changed.
    assert_eq!(rows(&folder, "dots a.dots --with b.dots --combine xor --mirror"), [".#.#"]);
    assert_eq!(rows(&folder, "dots a.dots --shift 3,0"), ["...#"]);
}

#[test]
fn pictures_that_cannot_be_read() {
    let folder = Folder::landing();
    folder.write("dawn.pgm", grey(8, 8, |x, _| (x * 32) as u8));
    folder.write("cut.gif", &b"GIF89a\x05\x00"[..]);
    folder.write("wide.pgm", "P5 90000 1 255\n");
    // Refused by its head, before a dot of it is unpacked.
    let mut huge = Vec::new();
    drop(png::Encoder::new(&mut huge, 30_000, 30_000).write_header().unwrap());
    folder.write("huge.png", &huge);
    insta::assert_snapshot!(folder.complaint("dots huge.png"), @"
    error: huge.png cannot be read as a picture: Image size exceeds limit
     │
     ╰ help: PNG, GIF, PBM, PGM and PPM are read, of 4096x4096 pixels at most
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("dots cut.gif"), @"
    error: cut.gif cannot be read as a picture: unexpected end of file
     │
     ╰ help: PNG, GIF, PBM, PGM and PPM are read, of 4096x4096 pixels at most
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("dots wide.pgm"), @"
    error: wide.pgm cannot be read as a picture: Image size exceeds limit
     │
     ╰ help: PNG, GIF, PBM, PGM and PPM are read, of 4096x4096 pixels at most
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("dots dawn.pgm --crop 4,4,8x2"), @"
    error: dawn.pgm: 4,4,8x2 is not within its 8x8 pixels
     │
     ╰ help: the corner is counted from 0,0 at the upper left
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("dots gull.dots --dither ordered"), @"
    error: gull.dots is a sprite: its dots stay as they are
     │
     ╰ help: leave out what is for pictures, such as --dither
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show --picture dawn.pgm --rig berth.toml"), @"
    error: face berth has digits: it shows no sprites
     │
     ╰ help: pick a face with dots
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("dots dawn.pgm --out berth.toml"), @"
    error: berth.toml exists and Spare Tile did not write it: it is unchanged
     │
     ╰ help: name another file, or write over it with --force
    [status 2]
    ");
    for line in
        ["--crop 1,2", "--crop 0,0,0x4", "--threshold 101%", "--size 0x4", "--dither ordered --threshold 9%"]
    {
        assert_eq!(folder.run(&format!("dots dawn.pgm {line}")).status, 2, "{line}");
    }
}

/// A reel shows a picture as `play sprite` does: in the colours that the face has, laid and dithered as the reel says.
#[test]
fn a_reel_shows_pictures_as_the_command_does() {
    let folder = Folder::landing();
    let pixels: Vec<String> =
        (0..64 * 32).map(|at| format!("{} {} {}", at % 256, at / 8, 255 - at % 256)).collect();
    folder.write("dawn.ppm", format!("P3 64 32 255\n{}\n", pixels.join("\n")));
    let picture = |line: &str| {
        let frames = folder.answer(&format!("{line} --for 1s --json"));
        let frame: serde_json::Value = serde_json::from_str(frames.lines().next().unwrap()).unwrap();
        frame["picture"].clone()
    };
    for (keys, options) in [
        ("", ""),
        (", dither = \"diffusion\"", "--dither diffusion"),
        (", lay = \"stretch\", sample = \"nearest\"", "--lay stretch --sample nearest"),
    ] {
        for rig in ["departures.toml", "board.toml"] {
            let face = if rig == "board.toml" { "board" } else { "departures" };
            folder.write(
                "dawn.reel.toml",
                format!("[[track]]\nface = \"{face}\"\n[[track.act]]\nsprite = {{ file = \"dawn.ppm\"{keys}, for = \"1s\" }}\n"),
            );
            let of_reel = picture(&format!("play dawn.reel.toml --rig {rig}"));
            assert_eq!(
                of_reel,
                picture(&format!("play sprite dawn.ppm --rig {rig} {options}")),
                "{rig} {keys}"
            );
        }
    }
    // Keys for pictures are refused for a sprite.
    folder.write("gull.reel.toml", "[[track]]\nface = \"board\"\n[[track.act]]\nsprite = { file = \"gull.dots\", dither = \"ordered\" }\n");
    assert!(folder.complaint("play gull.reel.toml --rig board.toml").contains("gull.dots is a sprite"));
}
