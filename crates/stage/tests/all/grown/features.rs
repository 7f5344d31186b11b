//! What grown themes switch on, ship and translate.

use super::*;

/// Words of their own, so that the others last: no slip of the pen turns them into each other.
const FURTHER: &str = "trombone spinach hammock lizard walrus penguin cactus tobacco mosaic tundra geyser magnolia \
                       begonia cyclamen dahlia freesia gladiolus hibiscus lupin marigold narcissus orchid petunia \
                       ranunculus snapdragon tulip verbena wisteria yarrow zinnia acrobat blanket candle dynamo";

impl Grower {
    fn further(&mut self) -> String {
        if self.further.is_empty() {
            self.further = FURTHER.split_ascii_whitespace().collect();
            self.rng.shuffle(&mut self.further);
        }
        self.further.pop().unwrap_or("remainder").to_string()
    }

    /// Gives layers style sheets and scripts, the top one features and a translation.
    pub(super) fn features(&mut self, layers: &mut [Layer]) {
        let top = layers.len() - 1;
        for (at, layer) in layers.iter_mut().enumerate() {
            self.assets(layer, at == top);
        }
        let layer = &mut layers[top];
        layer.declarations.push("[feature.page-titles]\n".to_string());
        if self.yes() {
            layer.declarations.push("[feature.breadcrumbs]\nhome = \"Home\"\n".to_string());
            self.markup.push_str("\n<p>{{ page.trail | length }}</p>");
        }
        if self.yes() {
            self.translations(layer);
        }
    }

    fn assets(&mut self, layer: &mut Layer, is_top: bool) {
        let root = layer.root;
        let (sheet, picture) = (self.further(), self.further());
        let mut css = format!("body {{ background: url({picture}.svg); }}\n");
        if is_top && self.yes() {
            let colour = self.further();
            layer.declarations.push(format!("[feature.colours]\npalette.{colour} = {{ value = \"#123456\" }}\n"));
            css.push_str(&format!("p {{ color: var(--colour-{colour}); }}\n"));
            self.markup.push_str("\n{% if enabled(\"feature:colours.palette\") %}<hr>{% endif %}");
        }
        self.files.insert(format!("{root}/media/{picture}.svg"), "<svg/>");
        self.files.insert(format!("{root}/media/{sheet}.css"), css);
        let needs = if self.yes() { "needs = [\"style:plain\"]\n" } else { "" };
        layer.declarations.push(format!("[style.{sheet}]\nfile = \"{sheet}.css\"\n{needs}"));
        let mut needed = format!("style:{sheet}");
        if self.yes() {
            let (giver, user) = (self.further(), self.further());
            let global = format!("{}{}", giver[..1].to_uppercase(), &giver[1..]);
            self.files.insert(format!("{root}/media/{giver}.js"), format!("const {global} = {{ start() {{}} }};\n"));
            self.files.insert(format!("{root}/media/{user}.js"), format!("{global}.start();\n"));
            layer.declarations.push(format!("[script.{giver}]\nfile = \"{giver}.js\"\ngives = [\"{global}\"]\n"));
            layer.declarations.push(format!("[script.{user}]\nfile = \"{user}.js\"\nneeds = [\"script:{giver}\"]\n"));
            if self.yes() {
                needed = format!("script:{user}");
            }
        }
        if let Some(table) = layer.declarations.iter_mut().find(|table| table.starts_with("[partial.")) {
            let about = "about = \"A component\"\n";
            *table = table.replacen(about, &format!("{about}needs = [\"{needed}\"]\n"), 1);
        }
    }

    fn translations(&mut self, layer: &mut Layer) {
        layer.declarations.push("[feature.translations]\n".to_string());
        let (plain, filled) = (self.further(), self.further());
        let mut words = "msgid \"\"\nmsgstr \"Language: de\\n\"\n".to_string();
        for (text, translation) in [
            (format!("Much {plain}"), "Viel davon".to_string()),
            (format!("By {{who}} with {filled}"), "Von {who} damit".to_string()),
        ] {
            words.push_str(&format!("\nmsgid \"{text}\"\nmsgstr \"{translation}\"\n"));
        }
        self.files.insert(format!("{}/words/de.po", layer.root), words);
        self.markup.push_str(&format!("\n<p>{{{{ \"Much {plain}\" | t }}}}</p>"));
        self.markup.push_str(&format!("\n<p>{{{{ \"By {{who}} with {filled}\" | t(who=page.title) }}}}</p>"));
    }
}
