//! The texts of pages: what a browser would carry out of them is taken out, unless the contract lets it stay.

use std::borrow::Cow;
use std::collections::HashSet;
use std::sync::OnceLock;

use ammonia::{Builder, UrlRelative};
use truehook_core::html::{Script, is_safe_address, scripts};

/// The elements that a text may have: those of HTML and SVG but for scripts and what changes where a page leads.
const ELEMENTS: &str = "a abbr address area article aside audio b bdi bdo blockquote br button canvas caption center cite code \
    col colgroup data datalist dd del details dfn dialog div dl dt em embed fieldset figcaption figure font footer form h1 h2 h3 h4 \
    h5 h6 header hgroup hr i iframe img input ins kbd label legend li main map mark menu meter nav object ol optgroup option output p \
    picture pre progress q rp rt ruby s samp search section select slot small source span strike strong sub summary sup table tbody td \
    template textarea tfoot th thead time tr track tt u ul var video wbr \
    svg circle clipPath defs desc ellipse feBlend feColorMatrix feComponentTransfer feComposite feFlood feGaussianBlur feMerge \
    feMergeNode feOffset filter g image line linearGradient marker mask path pattern polygon polyline radialGradient rect stop symbol \
    text textPath tspan use view";

/// The attributes that any of them may have, beside those that begin with `data-` or `aria-`.
const ATTRIBUTES: &str = "accept accept-charset accesskey action align allow allowfullscreen alt autocapitalize autocomplete autofocus \
    background bgcolor border cellpadding cellspacing charset checked cite class color cols colspan contenteditable controls coords data \
    datetime default dir dirname disabled download draggable enctype enterkeyhint face for form formaction formenctype formmethod \
    formnovalidate formtarget headers height hidden high href hreflang id inert inputmode ismap itemid itemprop itemref itemscope \
    itemtype kind label lang list loading loop low max maxlength media method min minlength multiple muted name novalidate open optimum \
    part pattern ping placeholder playsinline popover poster preload property readonly referrerpolicy required reversed role rows \
    rowspan sandbox scope selected shape size sizes slot span spellcheck src srclang srcset start step style tabindex target title \
    translate type usemap valign value width wrap xmlns \
    clip-path clip-rule cx cy d dx dy fill fill-opacity fill-rule filter flood-color font-family font-size font-weight fx fy \
    gradientTransform gradientUnits marker-end marker-mid marker-start mask offset opacity pathLength points preserveAspectRatio r rx ry \
    stop-color stop-opacity stroke stroke-dasharray stroke-linecap stroke-linejoin stroke-opacity stroke-width text-anchor transform \
    vector-effect viewBox x x1 x2 xlink:href y y1 y2";

fn cleaner() -> &'static Builder<'static> {
    static CLEANER: OnceLock<Builder<'static>> = OnceLock::new();
    CLEANER.get_or_init(|| {
        let mut cleaner = Builder::new();
        cleaner
            .tags(ELEMENTS.split_whitespace().collect())
            .tag_attributes(Default::default())
            .generic_attributes(ATTRIBUTES.split_whitespace().collect())
            .generic_attribute_prefixes(HashSet::from(["data-", "aria-"]))
            .add_url_schemes(["data", "blob"])
            .url_relative(UrlRelative::PassThrough)
            .link_rel(None)
            .strip_comments(false)
            .attribute_filter(|_, _, value| is_safe_address(value).then(|| value.into()));
        cleaner
    })
}

/// The text of a page without what a browser would carry out, and what that was. A text without any stays as it is, to
/// the byte.
pub fn cleaned(body: &str) -> (Cow<'_, str>, Vec<Script>) {
    let found = scripts(body);
    match found.is_empty() {
        true => (Cow::Borrowed(body), found),
        false => (Cow::Owned(cleaner().clean(body).to_string()), found),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_carried_out_goes_and_all_else_stays() {
        let kept = "<p class=\"a\" data-b=\"c\" style=\"color: red\">x <a href=\"/log/\">y</a> <img src=\"data:image/png;base64,AA\" alt=\"\"></p>";
        assert_eq!(cleaned(kept), (Cow::Borrowed(kept), Vec::new()));
        for bad in [
            "<script>alert(1)</script>",
            "<img src=x onerror=alert(1)>",
            "<a href=\"java&#10;script:alert(1)\">z</a>",
            "<svg><style><img src=x onerror=alert(1)></style></svg>",
            "<svg><animate attributeName=href to=javascript:alert(1)></svg>",
            "<iframe srcdoc=\"&lt;script>alert(1)</script>\"></iframe>",
            "<math><mtext><table><mglyph><style><!--</style><img title=\"--&gt;&lt;img src=x onerror=alert(1)&gt;\">",
        ] {
            let text = format!("{kept}{bad}");
            let (clean, found) = cleaned(&text);
            assert!(!found.is_empty(), "{bad}");
            assert!(clean.starts_with("<p class=\"a\"") && clean.contains("<a href=\"/log/\">y</a>"), "{clean}");
            assert_eq!(scripts(&clean), [], "{bad}: {clean}");
        }
    }
}
