//! Writing: all files or none, wherever the program is ended; and nothing that somebody else wrote is lost.

use std::cell::{Cell, RefCell};
use std::collections::BTreeMap;
use std::fs::{self, File};
use std::io;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};

use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::edit::{
    Change, Disk, Left, LeftOver, Lock, RealDisk, WriteError, left_over_in, write_all, write_on,
};

/// A disk that is gone after so many steps. The last one is done by half.
struct Dying {
    left: Cell<usize>,
    disk: RealDisk,
}

impl Dying {
    fn new(theme: &Theme, left: usize) -> Dying {
        Dying { left: Cell::new(left), disk: RealDisk::open(&theme.root).unwrap() }
    }

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
        self.step(|| drop(self.disk.make_folder(path)), || self.disk.make_folder(path))
    }
    fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
        self.step(|| (), || self.disk.remove_folder(path))
    }
    fn write(&self, path: &Utf8Path, bytes: &[u8]) -> io::Result<()> {
        self.step(|| drop(self.disk.write(path, &bytes[..bytes.len() / 2])), || self.disk.write(path, bytes))
    }
    fn open_to_write(&self, path: &Utf8Path) -> io::Result<File> {
        self.disk.open_to_write(path)
    }
    fn overwrite(&self, file: &File, bytes: &[u8]) -> io::Result<()> {
        // Half of it is over the old text, and the rest of that still stands behind.
        let half = || {
            use std::os::unix::fs::FileExt;
            drop(file.write_at(&bytes[..bytes.len() / 2], 0));
        };
        self.step(half, || self.disk.overwrite(file, bytes))
    }
    fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
        self.step(|| (), || self.disk.take_after(path, model))
    }
    fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
        self.step(|| drop(self.disk.exchange(one, other)), || self.disk.exchange(one, other))
    }
    fn name(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
        self.step(|| drop(self.disk.name(from, to)), || self.disk.name(from, to))
    }
    fn remove(&self, path: &Utf8Path) -> io::Result<()> {
        self.step(|| drop(self.disk.remove(path)), || self.disk.remove(path))
    }
    fn read(&self, path: &Utf8Path) -> Option<Vec<u8>> {
        if self.left.get() == 0 { None } else { self.disk.read(path) }
    }
}

/// A theme's folder with a few files, one of which has two names, and one of which is a link.
struct Theme {
    folder: tempfile::TempDir,
    root: Utf8PathBuf,
}

impl Theme {
    fn new() -> Theme {
        let folder = tempfile::tempdir().unwrap();
        let root = Utf8PathBuf::from_path_buf(folder.path().canonicalize().unwrap()).unwrap().join("theme");
        for (path, text) in BEFORE {
            fs::create_dir_all(root.join(path).parent().unwrap()).unwrap();
            fs::write(root.join(path), text).unwrap();
        }
        fs::hard_link(root.join("two.js"), root.join("other.js")).unwrap();
        symlink("real.html", root.join("link.html")).unwrap();
        fs::set_permissions(root.join("truehook.toml"), fs::Permissions::from_mode(0o640)).unwrap();
        Theme { folder, root }
    }

    /// The folder for the program's state.
    fn state(&self) -> Utf8PathBuf {
        Utf8PathBuf::from_path_buf(self.folder.path().join("state")).unwrap()
    }

    fn lock(&self, command: &str) -> Result<(Lock, Left), WriteError> {
        Lock::take_in(&self.state(), &self.root, command)
    }

    /// The files of its state folder, with what they hold.
    fn journals(&self) -> Vec<(Utf8PathBuf, String)> {
        let folder = self.state().join("journals");
        let files = folder.read_dir_utf8().into_iter().flatten().flatten();
        files.map(|file| (file.path().to_path_buf(), fs::read_to_string(file.path()).unwrap())).collect()
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

    /// All files as somebody sees them who knows what is left over.
    fn texts_with(&self, left: &LeftOver) -> BTreeMap<String, String> {
        let below = |path: &Utf8Path| path.strip_prefix(&self.root).unwrap().to_string();
        let mut texts = self.texts();
        texts.retain(|path, _| !path.contains("truehook-new"));
        for (path, bytes) in left.over.iter() {
            texts.insert(below(path), String::from_utf8(bytes.to_vec()).unwrap());
        }
        left.gone.iter().for_each(|path| drop(texts.remove(&below(path))));
        texts
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
    theme.lock("test").unwrap().0
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
        let disk = Dying::new(&theme, steps);
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
        // A command that only reads shows the files as they will be, and writes nothing.
        let before = theme.texts();
        let seen = left_over_in(&theme.state(), &theme.root).unwrap().map(|left| theme.texts_with(&left));
        assert_eq!(theme.texts(), before, "{steps}");
        let (lock, left) = theme.lock("next").unwrap();
        drop(lock);
        let texts = theme.texts();
        assert!(texts == old || texts == new, "{steps}: {left:?}: {texts:#?}");
        if let Some(seen) = seen {
            let files = |texts: BTreeMap<String, String>| -> Vec<_> {
                texts.into_iter().filter(|(path, _)| !path.ends_with('/') && path != "other.js").collect()
            };
            assert_eq!(files(seen), files(texts.clone()), "{steps}");
        }
        finished += usize::from(texts == new);
        assert_eq!(theme.lock("again").unwrap().1, Left::Nothing);
        assert_eq!(theme.journals(), Vec::new());
    }
    assert!(finished > 10, "only {finished}");
}

#[test]
fn a_save_in_between_is_kept() {
    /// A disk on which somebody saves a file right before it is exchanged.
    struct Between<'t> {
        saves: RefCell<Option<&'t Utf8Path>>,
        saved: &'t [u8],
        disk: RealDisk,
    }
    impl Disk for Between<'_> {
        fn exchange(&self, one: &Utf8Path, other: &Utf8Path) -> io::Result<bool> {
            if self.saves.borrow_mut().take_if(|path| *path == other).is_some() {
                fs::write(other, self.saved)?;
            }
            self.disk.exchange(one, other)
        }
        fn make_folder(&self, path: &Utf8Path) -> io::Result<()> {
            self.disk.make_folder(path)
        }
        fn remove_folder(&self, path: &Utf8Path) -> io::Result<()> {
            self.disk.remove_folder(path)
        }
        fn write(&self, path: &Utf8Path, bytes: &[u8]) -> io::Result<()> {
            self.disk.write(path, bytes)
        }
        fn open_to_write(&self, path: &Utf8Path) -> io::Result<File> {
            self.disk.open_to_write(path)
        }
        fn overwrite(&self, file: &File, bytes: &[u8]) -> io::Result<()> {
            self.disk.overwrite(file, bytes)
        }
        fn take_after(&self, path: &Utf8Path, model: &Utf8Path) -> io::Result<()> {
            self.disk.take_after(path, model)
        }
        fn name(&self, from: &Utf8Path, to: &Utf8Path) -> io::Result<()> {
            if self.saves.borrow_mut().take_if(|path| *path == from).is_some() {
                fs::write(from, self.saved)?;
            }
            self.disk.name(from, to)
        }
        fn remove(&self, path: &Utf8Path) -> io::Result<()> {
            self.disk.remove(path)
        }
        fn read(&self, path: &Utf8Path) -> Option<Vec<u8>> {
            self.disk.read(path)
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
        let disk = RealDisk::open(&theme.root).unwrap();
        let disk = Between { saves: RefCell::new(Some(&path)), saved: bytes, disk };
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
fn a_journal_that_came_with_a_theme_is_not_read() {
    let theme = Theme::new();
    let entry = serde_json::json!({ "path": "points/a.toml", "shown": "a", "before": "old a\n", "after": "theirs\n", "in_place": false });
    let page = serde_json::json!({ "process": 1, "command": "x", "record": { "folders": [], "entries": [entry] } });
    fs::write(theme.root.join(".truehook-journal"), format!("{page}\nall\n")).unwrap();
    let before = theme.texts();
    assert!(left_over_in(&theme.state(), &theme.root).unwrap().is_none());
    assert_eq!(theme.lock("next").unwrap().1, Left::Nothing);
    assert_eq!(theme.texts(), before);
}

/// What a journal of this user would have to say for something else to be written than a command of this program
/// writes.
#[test]
fn no_journal_writes_outside_of_a_theme_or_into_hidden_folders() {
    let outside = tempfile::tempdir().unwrap();
    let far = Utf8PathBuf::from_path_buf(outside.path().canonicalize().unwrap().join("far.txt")).unwrap();
    for path in [far.as_str(), "../far.txt", "points/../../far.txt", "linked/far.txt", ".git/config", "inner/config"] {
        let theme = Theme::new();
        fs::write(&far, "mine\n").unwrap();
        fs::create_dir(theme.root.join(".git")).unwrap();
        fs::write(theme.root.join(".git/config"), "mine\n").unwrap();
        symlink(outside.path(), theme.root.join("linked")).unwrap();
        symlink(".git", theme.root.join("inner")).unwrap();
        // The journal of a command that was ended, with another path in it.
        let disk = Dying::new(&theme, 6);
        let mut held = theme.lock("test").unwrap().0;
        assert!(write_on(&disk, &mut held, &theme.changes()).is_err());
        held.leave();
        let (journal, text) = theme.journals().remove(0);
        let mut page: serde_json::Value = serde_json::from_str(text.strip_suffix("all\n").unwrap()).unwrap();
        page["record"]["entries"][0]["path"] = path.into();
        page["record"]["entries"][0]["before"] = "mine\n".into();
        fs::write(&journal, format!("{page}\nall\n")).unwrap();
        assert!(left_over_in(&theme.state(), &theme.root).unwrap().is_none(), "{path}");
        assert_eq!(theme.lock("next").unwrap().1, Left::Refused("test".into()), "{path}");
        assert_eq!(fs::read_to_string(&far).unwrap(), "mine\n", "{path}");
        assert_eq!(fs::read_to_string(theme.root.join(".git/config")).unwrap(), "mine\n", "{path}");
    }
}

#[test]
fn links_in_the_place_of_what_this_writes_are_not_followed() {
    let theme = Theme::new();
    let far = theme.root.with_file_name("far.txt");
    fs::write(&far, "mine\n").unwrap();
    symlink(&far, theme.root.join(".truehook.toml.truehook-new")).unwrap();
    write_all(&mut lock(&theme), &theme.changes()).unwrap();
    assert_eq!(fs::read_to_string(&far).unwrap(), "mine\n");
    // A journal that is a link is none.
    let theme = Theme::new();
    drop(lock(&theme));
    let journal = {
        let held = lock(&theme);
        let journal = theme.journals().remove(0).0;
        drop(held);
        journal
    };
    symlink(&far, &journal).unwrap();
    assert!(theme.lock("test").is_err());
    assert_eq!(fs::read_to_string(&far).unwrap(), "mine\n");
}

#[test]
fn hidden_files_are_never_written() {
    for (link, path) in
        [(None, ".git/config"), (None, "points/.hidden/a.toml"), (Some((".git", "markup")), "markup/x.html")]
    {
        let theme = Theme::new();
        fs::create_dir(theme.root.join(".git")).unwrap();
        if let Some((to, link)) = link {
            symlink(to, theme.root.join(link)).unwrap();
        }
        let before = theme.texts();
        let change =
            Change { path: theme.root.join(path), shown: path.into(), before: None, after: Some(b"x".to_vec()) };
        let outcome = write_all(&mut lock(&theme), &[change]);
        assert!(matches!(outcome, Err(WriteError::Hidden(_))), "{path}: {outcome:?}");
        assert_eq!(theme.texts(), before, "{path}");
    }
    // What the program has of its own is written.
    let theme = Theme::new();
    let own = ".truehook/manifest.json";
    let change = Change { path: theme.root.join(own), shown: own.into(), before: None, after: Some(b"{}".to_vec()) };
    write_all(&mut lock(&theme), &[change]).unwrap();
    assert_eq!(theme.texts()[own], "{}");
}

/// A folder that is exchanged for a link again and again while files are written into it.
#[test]
fn a_folder_that_becomes_a_link_in_the_middle_leads_nowhere() {
    let theme = Theme::new();
    let outside = theme.root.with_file_name("outside");
    fs::create_dir(&outside).unwrap();
    fs::create_dir(theme.root.join("markup")).unwrap();
    let done = std::sync::atomic::AtomicBool::new(false);
    std::thread::scope(|scope| {
        scope.spawn(|| {
            use rustix::fs::{CWD, RenameFlags, renameat_with};
            let (folder, aside) = (theme.root.join("markup"), theme.root.with_file_name("aside"));
            symlink(&outside, &aside).unwrap();
            while !done.load(std::sync::atomic::Ordering::Relaxed) {
                renameat_with(CWD, folder.as_str(), CWD, aside.as_str(), RenameFlags::EXCHANGE).unwrap();
                std::thread::yield_now();
            }
        });
        let mut written = 0;
        for at in 0..300 {
            let path = format!("markup/page-{at}.html");
            let change = Change { path: theme.root.join(&path), shown: path, before: None, after: Some(b"x".to_vec()) };
            let Ok((mut lock, _)) = theme.lock("test") else { continue };
            written += usize::from(write_all(&mut lock, &[change]).is_ok());
        }
        done.store(true, std::sync::atomic::Ordering::Relaxed);
        assert!(written > 0);
    });
    assert_eq!(fs::read_dir(&outside).unwrap().count(), 0);
}

#[test]
fn another_folder_in_the_place_of_a_theme_has_a_journal_of_its_own() {
    let theme = Theme::new();
    let disk = Dying::new(&theme, 6);
    let mut held = lock(&theme);
    assert!(write_on(&disk, &mut held, &theme.changes()).is_err());
    held.leave();
    let moved = theme.root.with_file_name("moved");
    fs::rename(&theme.root, &moved).unwrap();
    fs::create_dir(&theme.root).unwrap();
    fs::write(theme.root.join("truehook.toml"), "[theme]\n").unwrap();
    assert_eq!(theme.lock("next").unwrap().1, Left::Nothing);
    assert_eq!(fs::read_to_string(theme.root.join("truehook.toml")).unwrap(), "[theme]\n");
    // Back at its place, it is finished.
    fs::remove_dir_all(&theme.root).unwrap();
    fs::rename(&moved, &theme.root).unwrap();
    assert_eq!(theme.lock("next").unwrap().1, Left::Finished("test".into()));
    assert_eq!(fs::read_to_string(theme.root.join("points/a.toml")).unwrap(), "new a, and longer than before\n");
}

#[test]
fn one_at_a_time_and_the_second_is_told_who_is_first() {
    let theme = Theme::new();
    let first = lock(&theme);
    let waiting = std::thread::scope(|scope| {
        let second = scope.spawn(|| theme.lock("second").map(drop));
        std::thread::sleep(std::time::Duration::from_millis(200));
        drop(first);
        second.join().unwrap()
    });
    assert!(waiting.is_ok());
    assert_eq!(theme.journals(), Vec::new());
    let _first = lock(&theme);
    let error = theme.lock("second").map(drop).unwrap_err().to_string();
    assert!(error.contains("`truehook test`") && error.contains(&std::process::id().to_string()), "{error}");
}
