//! Where journals are kept: outside of all themes, in the state folder of the user. What lies in a theme can't say
//! what is to be written.

use std::io;

use camino::{Utf8Path, Utf8PathBuf};
use sha2::{Digest, Sha256};

/// The folder of the user's state that belongs to this program: `$XDG_STATE_HOME/truehook`, else
/// `~/.local/state/truehook` (XDG Base Directory Specification). A relative `XDG_STATE_HOME` counts as none.
///
/// # Errors
/// Where neither is set.
pub fn state_folder() -> io::Result<Utf8PathBuf> {
    let named = |name: &str| {
        let path = std::env::var(name).ok().map(Utf8PathBuf::from);
        path.filter(|path| path.is_absolute())
    };
    let own = named("XDG_STATE_HOME").or_else(|| named("LOCALAPPDATA").filter(|_| cfg!(windows)));
    let state = own.or_else(|| Some(named("HOME")?.join(".local/state")));
    let none = || io::Error::other("there is no folder for the program's state; set XDG_STATE_HOME to one");
    state.map(|state| state.join("truehook")).ok_or_else(none)
}

/// The journal of a theme, by the theme's canonical path. Its name is made of the path, the folder's inode and the
/// name of this machine: another folder at the same path, or the same path on another machine, has another journal.
pub fn journal_path(state: &Utf8Path, theme: &Utf8Path) -> io::Result<Utf8PathBuf> {
    let data = std::fs::metadata(theme)?;
    #[cfg(unix)]
    let (number, machine) = {
        use std::os::unix::fs::MetadataExt;
        let machine = rustix::system::uname().nodename().to_bytes().to_vec();
        ([data.dev(), data.ino()], machine)
    };
    #[cfg(not(unix))]
    let (number, machine) = {
        drop(data);
        ([0u64; 2], Vec::new())
    };
    let mut hash = Sha256::new();
    hash.update(theme.as_str().as_bytes());
    hash.update([0]);
    number.iter().for_each(|number| hash.update(number.to_le_bytes()));
    hash.update(&machine);
    let name: String = hash.finalize().iter().take(16).map(|byte| format!("{byte:02x}")).collect();
    Ok(state.join("journals").join(format!("{name}.json")))
}

/// Makes the folder of the journals, for this user alone.
pub fn make_journals(path: &Utf8Path) -> io::Result<()> {
    let mut folder = std::fs::DirBuilder::new();
    folder.recursive(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::DirBuilderExt;
        folder.mode(0o700);
    }
    path.parent().map_or(Ok(()), |parent| folder.create(parent))
}

/// Options to open a journal by: for this user alone, and no link is followed.
pub fn open_options() -> std::fs::OpenOptions {
    let mut options = std::fs::OpenOptions::new();
    options.read(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::OpenOptionsExt;
        options
            .mode(0o600)
            .custom_flags((rustix::fs::OFlags::NOFOLLOW | rustix::fs::OFlags::NONBLOCK).bits().cast_signed());
    }
    options
}

/// Did this user write an open journal? Nobody else can, where the folders are as this program makes them.
pub fn is_own(file: &std::fs::File) -> bool {
    let Ok(data) = file.metadata() else { return false };
    #[cfg(unix)]
    {
        use std::os::unix::fs::MetadataExt;
        data.is_file() && data.uid() == rustix::process::geteuid().as_raw() && data.mode() & 0o022 == 0
    }
    #[cfg(not(unix))]
    data.is_file()
}
