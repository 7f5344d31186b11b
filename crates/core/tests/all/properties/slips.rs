//! Slips of the pen in the demo: each is told, and a mend that is sure gives back what stood there.

use camino::Utf8PathBuf;
use proptest::prelude::*;
use truehook_core::address::Address;
use truehook_core::link::Registry;
use truehook_core::mending::mend;
use truehook_core::read::{FileKind, MemoryFiles, Project};
use truehook_core::rules::{self, Level};
use walkdir::WalkDir;

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");

/// The demo in memory, under `/t`.
fn demo() -> MemoryFiles {
    let mut files = MemoryFiles::new();
    for entry in ["foreshore", "tide-kit", "saltmarsh"].iter().flat_map(|theme| WalkDir::new(format!("{DEMO}/{theme}")))
    {
        let entry = entry.unwrap();
        if entry.file_type().is_file() {
            let path = entry.path().strip_prefix(DEMO).unwrap();
            files.insert(format!("/t/{}", path.to_str().unwrap()), std::fs::read(entry.path()).unwrap());
        }
    }
    files
}

/// Every address between quotes in the theme's own files: the file, and where the name stands.
fn addresses(files: &MemoryFiles) -> Vec<(Utf8PathBuf, std::ops::Range<usize>)> {
    let project = Project::open(files, "/t/saltmarsh".into()).unwrap();
    let mut found = Vec::new();
    for (_, file) in project.files_of(project.top()) {
        if !matches!(
            file.kind,
            FileKind::Template | FileKind::Module | FileKind::Manifest | FileKind::Site | FileKind::Page
        ) {
            continue;
        }
        let text = file.text();
        for quote in ['"', '\''] {
            let marks: Vec<usize> = text.match_indices(quote).map(|(at, _)| at).collect();
            for pair in marks.windows(2) {
                let inner = &text[pair[0] + 1..pair[1]];
                // What a function of a theme's own compares with is anybody's text.
                let asked = file.kind != FileKind::Module || text[..pair[0]].ends_with('(');
                if asked && inner.parse::<Address>().is_ok() {
                    let colon = pair[0] + 1 + inner.find(':').unwrap();
                    found.push((format!("/t/saltmarsh/{}", file.path).into(), colon + 1..pair[1]));
                }
            }
        }
    }
    found
}

fn text(files: &MemoryFiles, path: &Utf8PathBuf) -> String {
    String::from_utf8(files.get(path).unwrap().to_vec()).unwrap()
}

/// A word with one slip in it.
fn slipped(word: &str, how: u8, at: usize) -> String {
    let mut letters: Vec<char> = word.chars().collect();
    let at = at % letters.len();
    match how {
        0 => letters.insert(at, letters[at]),
        1 if letters.len() > 1 => drop(letters.remove(at)),
        2 if at + 1 < letters.len() => letters.swap(at, at + 1),
        _ => letters[at] = if letters[at] == 'x' { 'z' } else { 'x' },
    }
    letters.into_iter().collect()
}

fn registry(files: &MemoryFiles) -> Registry {
    Registry::new(Project::open(files, "/t/saltmarsh".into()).unwrap())
}

fn serious(registry: &Registry) -> Vec<String> {
    let findings = rules::check(registry).findings;
    findings.iter().filter(|finding| finding.level > Level::Note).map(|finding| finding.message.clone()).collect()
}

#[test]
fn the_demo_has_enough_addresses_to_slip_in() {
    let files = demo();
    assert_eq!(serious(&registry(&files)), [""; 0]);
    assert!(addresses(&files).len() > 40, "{}", addresses(&files).len());
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_slip_is_told_and_a_sure_mend_takes_it_back(which in any::<prop::sample::Index>(), how in 0..4u8, at in 0..40usize) {
        let mut files = demo();
        let all = addresses(&files);
        let (path, range) = which.get(&all).clone();
        let before = text(&files, &path);
        let word = &before[range.clone()];
        let new = slipped(word, how, at);
        prop_assume!(new != word);
        let after = format!("{}{new}{}", &before[..range.start], &before[range.end..]);
        files.insert(path.clone(), after.as_str());
        let broken = registry(&files);
        let told = serious(&broken);
        prop_assert!(!told.is_empty(), "{word} became {new} in {path}, and nothing was said");
        let mended = mend(&files, broken, &mut |_, _| None).unwrap();
        for change in &mended.changes {
            let now = String::from_utf8(change.after.clone().unwrap()).unwrap();
            prop_assert_eq!(&now, &before, "{} became {} in {}, and was mended to something else", word, new, path);
        }
        if !mended.changes.is_empty() {
            prop_assert_eq!(serious(&mended.registry), [""; 0]);
        }
    }
}
