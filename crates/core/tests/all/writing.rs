//! Writing: all files or none, wherever the program is ended; and nothing that somebody else wrote is lost.

use std::cell::{Cell, RefCell};
use std::collections::BTreeMap;
use std::fs::{self, File};
use std::io;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};

use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::edit::{Change, Disk, JOURNAL, Left, Lock, RealDisk, WriteError, settle, write_all, write_on};

/// A disk that is gone after so many steps. The last one is done by half.
struct Dying {
    left: Cell<usize>,
}

impl Dying {
    fn step<T>(&self, half: impl FnOnce(), whole: impl FnOnce() -> io::Result<T>) -> io::Result<T> {
        match self.left.get() {
            0 => return Err(io::Error::other("gone")),
            1 => half(),
            _ => {}
        }
        self.left.set(self.left.get() - 1);
        if self.left.get() == 0 { Err(io::Error::other("gone")) } else { whole() }
    }
}

impl Disk for Dying {
    fn make_folder(&self, path: &Utf8Path) -> io::Result<()> {
        self.step(|| drop(RealDisk.make_folder(path)), || RealDisk.make_folder(path))
    }
    fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
        self.step(|| (), || RealDisk.remove_folder(path))
    }
    fn write(&self, path: &Utf8Path, text: &str) -> io::Result<()> {
        self.step(|| drop(RealDisk.write(path, &text[..text.len() / 2])), || RealDisk.write(path, text))
    }
    fn overwrite(&self, file: &File, text: &str) -> io::Result<()> {
        // Half of it is over the old text, and the rest of that still stands behind.
        let half = || {
            use std::os::unix::fs::FileExt;
            drop(file.write_at(&text.as_bytes()[..text.len() / 2], 0));
        };
        self.step(half, || RealDisk.overwrite(file, text))
    }
    fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
        self.step(|| (), || RealDisk.take_after(path, model))
    }
    fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
        self.step(|| drop(RealDisk.exchange(one, other)), || RealDisk.exchange(one, other))
    }
    fn name(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
        self.step(|| drop(RealDisk.name(from, to)), || RealDisk.name(from, to))
    }
    fn remove(&self, path: &Utf8Path) -> io::Result<()> {
        self.step(|| drop(RealDisk.remove(path)), || RealDisk.remove(path))
    }
    fn read(&self, path: &Utf8Path) -> Option<String> {
        if self.left.get() == 0 { None } else { RealDisk.read(path) }
    }
}

/// A theme's folder with a few files, one of which has two names, and one of which is a link.
struct Theme {
    _folder: tempfile::TempDir,
    root: Utf8PathBuf,
}

impl Theme {
    fn new() -> Theme {
        let folder = tempfile::tempdir().unwrap();
        let root = Utf8PathBuf::from_path_buf(folder.path().canonicalize().unwrap()).unwrap();
        for (path, text) in BEFORE {
            fs::create_dir_all(root.join(path).parent().unwrap()).unwrap();
            fs::write(root.join(path), text).unwrap();
        }
        fs::hard_link(root.join("two.js"), root.join("other.js")).unwrap();
        symlink("real.html", root.join("link.html")).unwrap();
        fs::set_permissions(root.join("truehook.toml"), fs::Permissions::from_mode(0o640)).unwrap();
        Theme { _folder: folder, root }
    }

    fn changes(&self) -> Vec<Change> {
        let change = |path: &str, before: Option<&str>, after: &str| Change {
            path: self.root.join(path),
            shown: path.to_string(),
            before: before.map(|text| text.as_bytes().to_vec()),
            after: Some(after.as_bytes().to_vec()),
        };
        let gone = |path: &str, before: &str| Change { after: None, ..change(path, Some(before), "") };
        vec![
            change("truehook.toml", Some("[theme]\n"), "[theme]\nname = \"new\"\n"),
            change("points/a.toml", Some("old a\n"), "new a, and longer than before\n"),
            change("two.js", Some("old two, longer than the new one\n"), "new two\n"),
            change("link.html", Some("old real\n"), "new real\n"),
            change("markup/pieces/note.html", None, "new note\n"),
            gone("code/lib/gone.js", "to go\n"),
            gone("one.js", "to go, too\n"),
        ]
    }

    /// All files, with what they hold.
    fn texts(&self) -> BTreeMap<String, String> {
        let mut found = BTreeMap::new();
        let mut open = vec![self.root.clone()];
        while let Some(folder) = open.pop() {
            for entry in folder.read_dir_utf8().unwrap().flatten() {
                let path = entry.path();
                let below = path.strip_prefix(&self.root).unwrap().to_string();
                if entry.file_type().unwrap().is_dir() {
                    found.insert(format!("{below}/"), String::new());
                    open.push(path.to_path_buf());
                } else {
                    found.insert(below, String::from_utf8_lossy(&fs::read(path).unwrap_or_default()).into_owned());
                }
            }
        }
        found
    }
}

const BEFORE: [(&str, &str); 7] = [
    ("truehook.toml", "[theme]\n"),
    ("points/a.toml", "old a\n"),
    ("two.js", "old two, longer than the new one\n"),
    ("real.html", "old real\n"),
    ("code/lib/gone.js", "to go\n"),
    ("one.js", "to go, too\n"),
    ("untouched.css", "a {}\n"),
];

fn lock(theme: &Theme) -> Lock {
    Lock::take(&theme.root, "test").unwrap().0
}

#[test]
fn what_is_written_keeps_what_is_not_changed() {
    let theme = Theme::new();
    let mut held = lock(&theme);
    write_all(&mut held, &theme.changes()).unwrap();
    drop(held);
    let texts = theme.texts();
    assert_eq!(texts["truehook.toml"], "[theme]\nname = \"new\"\n");
    assert_eq!(texts["other.js"], "new two\n", "both names lead to one file");
    assert_eq!(texts["real.html"], "new real\n");
    assert_eq!(texts["markup/pieces/note.html"], "new note\n");
    assert!(fs::symlink_metadata(theme.root.join("link.html")).unwrap().is_symlink());
    assert_eq!(fs::metadata(theme.root.join("truehook.toml")).unwrap().mode() & 0o777, 0o640);
    assert_eq!(fs::metadata(theme.root.join("two.js")).unwrap().nlink(), 2);
    assert!(texts.keys().all(|path| !path.contains("truehook-")), "{texts:#?}");
    assert!(texts.keys().all(|path| !path.contains("one.js") && !path.starts_with("code")), "{texts:#?}");
}

#[test]
fn ended_at_any_step_all_files_are_old_or_new() {
    let (old, new) = {
        let theme = Theme::new();
        let old = theme.texts();
        write_all(&mut lock(&theme), &theme.changes()).unwrap();
        (old, theme.texts())
    };
    let mut finished = 0;
    for steps in 1.. {
        let theme = Theme::new();
        let disk = Dying { left: Cell::new(steps) };
        let mut held = lock(&theme);
        let outcome = write_on(&disk, &mut held, &theme.changes());
        if disk.left.get() > 0 {
            assert!(outcome.is_ok());
            break;
        }
        held.leave();
        // Each file is old or new, but for the one that is written in its place.
        for (path, text) in theme.texts() {
            let plain = !path.contains("truehook-") && path != "two.js" && path != "other.js";
            if plain {
                assert!([old.get(&path), new.get(&path)].contains(&Some(&text)), "{steps}: {path}: {text}");
            }
        }
        let left = settle(&theme.root).unwrap();
        let texts = theme.texts();
        assert!(texts == old || texts == new, "{steps}: {left:?}: {texts:#?}");
        finished += usize::from(texts == new);
        assert_eq!(settle(&theme.root).unwrap(), Left::Nothing);
    }
    assert!(finished > 10, "only {finished}");
}

#[test]
fn a_save_in_between_is_kept() {
    /// A disk on which somebody saves a file right before it is exchanged.
    struct Between<'t> {
        saves: RefCell<Option<&'t Utf8Path>>,
        saved: &'t [u8],
    }
    impl Disk for Between<'_> {
        fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
            if self.saves.borrow_mut().take_if(|path| *path == other).is_some() {
                fs::write(other, self.saved)?;
            }
            RealDisk.exchange(one, other)
        }
        fn make_folder(&self, path: &Utf8Path) -> io::Result<()> {
            RealDisk.make_folder(path)
        }
        fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
            RealDisk.remove_folder(path)
        }
        fn write(&self, path: &Utf8Path, text: &str) -> io::Result<()> {
            RealDisk.write(path, text)
        }
        fn overwrite(&self, file: &File, text: &str) -> io::Result<()> {
            RealDisk.overwrite(file, text)
        }
        fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
            RealDisk.take_after(path, model)
        }
        fn name(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
            if self.saves.borrow_mut().take_if(|path| *path == from).is_some() {
                fs::write(from, self.saved)?;
            }
            RealDisk.name(from, to)
        }
        fn remove(&self, path: &Utf8Path) -> io::Result<()> {
            RealDisk.remove(path)
        }
        fn read(&self, path: &Utf8Path) -> Option<String> {
            RealDisk.read(path)
        }
    }
    // Text or not, it is theirs.
    let saves: [(&str, &[u8]); 6] = [
        ("one.js", b"a person's\n"),
        ("code/lib/gone.js", b"\xff\xfe in another encoding\n"),
        ("truehook.toml", b"a person's\n"),
        ("points/a.toml", b"a person's\n"),
        ("real.html", b"a person's\n"),
        ("points/a.toml", b"\xff\xfe in another encoding\n"),
    ];
    for (saved, bytes) in saves {
        let theme = Theme::new();
        let mut wanted = theme.texts();
        for path in [saved, if saved == "real.html" { "link.html" } else { saved }] {
            wanted.insert(path.to_string(), String::from_utf8_lossy(bytes).into_owned());
        }
        let path = theme.root.join(saved);
        let disk = Between { saves: RefCell::new(Some(&path)), saved: bytes };
        let outcome = write_on(&disk, &mut lock(&theme), &theme.changes());
        assert!(matches!(outcome, Err(WriteError::Stale(_))), "{saved}: {outcome:?}");
        assert_eq!(theme.texts(), wanted, "{saved}");
    }
}

#[test]
fn what_must_not_be_written_is_refused_and_nothing_is_left() {
    let outside = tempfile::tempdir().unwrap();
    fs::write(outside.path().join("far.html"), "old real\n").unwrap();
    for (what, spoil) in [
        (
            "read-only",
            &(|root: &Utf8Path| {
                fs::set_permissions(root.join("points/a.toml"), fs::Permissions::from_mode(0o444)).unwrap()
            }) as &dyn Fn(&Utf8Path),
        ),
        ("is there already", &|root| {
            fs::create_dir_all(root.join("markup/pieces")).unwrap();
            fs::write(root.join("markup/pieces/note.html"), "mine\n").unwrap();
        }),
        ("changed by somebody else", &|root| fs::write(root.join("points/a.toml"), "mine\n").unwrap()),
        ("changed by somebody else", &|root| fs::remove_file(root.join("points/a.toml")).unwrap()),
        ("no plain file", &|root| {
            fs::remove_file(root.join("points/a.toml")).unwrap();
            fs::create_dir(root.join("points/a.toml")).unwrap();
        }),
        ("out of the theme", &|root| {
            fs::remove_file(root.join("link.html")).unwrap();
            symlink(outside.path().join("far.html"), root.join("link.html")).unwrap();
        }),
        ("out of the theme", &|root| symlink(outside.path(), root.join("markup")).unwrap()),
        ("can't be written", &|root| fs::write(root.join("markup"), "a file where a folder belongs\n").unwrap()),
    ] {
        let theme = Theme::new();
        spoil(&theme.root);
        let before = theme.texts();
        let error = write_all(&mut lock(&theme), &theme.changes()).unwrap_err().to_string();
        assert!(error.contains(what), "{what}: {error}");
        assert_eq!(theme.texts(), before, "{what}");
    }
    assert_eq!(fs::read_to_string(outside.path().join("far.html")).unwrap(), "old real\n");
    assert_eq!(fs::read_dir(outside.path()).unwrap().count(), 1);
}

#[test]
fn a_theme_from_somebody_else_writes_nothing_elsewhere() {
    let outside = tempfile::tempdir().unwrap();
    let far = Utf8PathBuf::from_path_buf(outside.path().canonicalize().unwrap().join("far.txt")).unwrap();
    fs::write(&far, "mine\n").unwrap();
    // A journal that names files of somebody else's.
    for path in [far.as_str(), "../far.txt", "points/../../far.txt", "linked/far.txt"] {
        let theme = Theme::new();
        symlink(outside.path(), theme.root.join("linked")).unwrap();
        let entry = serde_json::json!({ "path": path, "shown": "a", "before": "mine\n", "after": "theirs\n", "in_place": false });
        let page = serde_json::json!({ "process": 1, "command": "x", "record": { "folders": [], "entries": [entry] } });
        fs::write(theme.root.join(JOURNAL), format!("{page}\nall\n")).unwrap();
        assert_eq!(settle(&theme.root).unwrap(), Left::Foreign, "{path}");
        assert_eq!(fs::read_to_string(&far).unwrap(), "mine\n", "{path}");
    }
    // Links in the place of what this writes for itself.
    let theme = Theme::new();
    symlink(&far, theme.root.join(JOURNAL)).unwrap();
    assert!(matches!(settle(&theme.root), Err(WriteError::NotPlain(_))));
    fs::remove_file(theme.root.join(JOURNAL)).unwrap();
    symlink(&far, theme.root.join(".truehook.toml.truehook-new")).unwrap();
    write_all(&mut lock(&theme), &theme.changes()).unwrap();
    assert_eq!(fs::read_to_string(&far).unwrap(), "mine\n");
}

#[test]
fn a_theme_that_was_moved_in_the_middle_of_it_is_finished_where_it_is() {
    let theme = Theme::new();
    let disk = Dying { left: Cell::new(6) };
    let mut held = lock(&theme);
    assert!(write_on(&disk, &mut held, &theme.changes()).is_err());
    held.leave();
    let moved = theme.root.with_file_name(format!("{}-moved", theme.root.file_name().unwrap()));
    fs::rename(&theme.root, &moved).unwrap();
    assert_eq!(settle(&moved).unwrap(), Left::Finished("test".into()));
    assert_eq!(fs::read_to_string(moved.join("points/a.toml")).unwrap(), "new a, and longer than before\n");
    fs::remove_dir_all(&moved).unwrap();
}

#[test]
fn one_at_a_time_and_the_second_is_told_who_is_first() {
    let theme = Theme::new();
    let first = lock(&theme);
    let waiting = std::thread::scope(|scope| {
        let second = scope.spawn(|| Lock::take(&theme.root, "second").map(drop));
        std::thread::sleep(std::time::Duration::from_millis(200));
        drop(first);
        second.join().unwrap()
    });
    assert!(waiting.is_ok());
    assert!(!theme.root.join(JOURNAL).exists());
    let _first = lock(&theme);
    let error = Lock::take(&theme.root, "second").map(drop).unwrap_err().to_string();
    assert!(error.contains("`truehook test`") && error.contains(&std::process::id().to_string()), "{error}");
}
