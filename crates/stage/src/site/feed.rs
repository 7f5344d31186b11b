//! The feed of a site's newest pages (Atom, RFC 4287).

use std::io::Error;

use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};
use sha2::{Digest, Sha256};

/// The file of the feed, at the site's root.
pub const FEED: &str = "feed.xml";

/// A page in a feed.
pub struct FeedEntry {
    pub path: String,
    pub title: String,
    /// RFC 3339, a date or a date and time.
    pub date: String,
    pub summary: String,
}

/// A feed as XML. `seed` tells one site from another.
pub fn atom(seed: &str, title: &str, now: &str, entries: &[FeedEntry]) -> Result<String, Error> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("utf-8"), None)))?;
    let text = |writer: &mut Writer<Vec<u8>>, name: &str, text: &str| -> Result<(), Error> {
        writer.create_element(name).write_text_content(BytesText::new(text))?;
        Ok(())
    };
    let feed = writer.create_element("feed").with_attribute(("xmlns", "http://www.w3.org/2005/Atom"));
    feed.write_inner_content(|writer| {
        text(writer, "title", title)?;
        text(writer, "id", &id(seed, "/"))?;
        let newest = entries.iter().map(|entry| moment(&entry.date)).max();
        text(writer, "updated", &newest.unwrap_or_else(|| moment(now)))?;
        writer.create_element("author").write_inner_content(|writer| text(writer, "name", title))?;
        let own = [("rel", "self"), ("href", FEED)];
        writer.create_element("link").with_attributes(own).write_empty()?;
        for entry in entries {
            writer.create_element("entry").write_inner_content(|writer| {
                text(writer, "title", &entry.title)?;
                text(writer, "id", &id(seed, &entry.path))?;
                text(writer, "updated", &moment(&entry.date))?;
                writer.create_element("link").with_attribute(("href", entry.path.as_str())).write_empty()?;
                // An entry without a text of its own says what it is about.
                let summary = if entry.summary.is_empty() { &entry.title } else { &entry.summary };
                text(writer, "summary", summary)
            })?;
        }
        Ok(())
    })?;
    let mut xml = String::from_utf8(writer.into_inner()).unwrap_or_default();
    xml.push('\n');
    Ok(xml)
}

/// A date with a time, as the standard wants it.
fn moment(date: &str) -> String {
    if date.contains('T') { date.to_string() } else { format!("{date}T00:00:00Z") }
}

/// The same page has the same name for ever: a UUID made from its path (RFC 9562, version 8).
fn id(seed: &str, path: &str) -> String {
    let mut bytes = [0u8; 16];
    bytes.copy_from_slice(&Sha256::digest(format!("{seed}{path}").as_bytes())[..16]);
    uuid::Builder::from_custom_bytes(bytes).into_uuid().urn().to_string()
}
