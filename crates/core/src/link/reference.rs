//! References: what leads from one place to another.

use std::ops::Deref;
use std::sync::{LazyLock, Mutex, PoisonError};

use rustc_hash::FxHashSet;

use crate::name::Name;

use crate::address::Address;
use crate::source::{FileId, LayerId, Place};

/// Every kind of reference that can break, in the order of the design's table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Link {
    /// A layer's `base`, companion or host contract.
    LayerToLayer,
    /// `place` or `filled` of a hook, region, area or menu spot.
    PlaceToPoint,
    /// `place` of a component.
    PlaceToComponent,
    /// `through` a filter.
    ThroughToFilter,
    /// An argument of `place` or `through`.
    ArgumentToInput,
    /// An attachment's point.
    AttachmentToPoint,
    /// An attachment's callback.
    AttachmentToCallback,
    /// A component's `render`.
    RenderToCallback,
    /// A partial attached to a hook.
    AttachmentToPartial,
    /// `before` and `after`.
    OrderToSlot,
    /// `[[detach]]`.
    DetachToSlot,
    /// `[[replace]]`: what goes.
    ReplaceToSlot,
    /// `[[replace]]`: what comes.
    ReplaceToCallback,
    /// A component's template.
    ComponentToTemplate,
    /// `extends`, `include`, `import` of a template.
    TemplateToTemplate,
    /// A macro that one template imports from another.
    ImportToMacro,
    /// A block of a template that extends another one.
    BlockToBlock,
    /// A variable that a template reads.
    VariableToName,
    /// A name in a condition.
    ConditionToName,
    /// A property that a callback reads of what it is given.
    PropertyToName,
    /// A module's import of another module, or of one of its exports.
    ImportToModule,
    /// A page's type.
    PageToType,
    /// A page's body.
    PageToBody,
    /// A fill's region, area or menu spot.
    FillToPoint,
    /// The site's menu that fills a menu spot.
    FillToMenu,
    /// An item's component.
    ItemToComponent,
    /// What a component may hold.
    HoldsToComponent,
    /// A key of an item or offer.
    ItemKeyToInput,
    /// A key of what a preparer returns.
    ReturnToInput,
    /// An option that the site chooses.
    ChoiceToOption,
    /// A template that was taken over, and its original.
    CopyToOriginal,
    /// The file that `asset`, an asset, a feature or a manifest's `picture` names.
    AssetToFile,
    /// What a component or asset needs, or `asset("style:…")`.
    NeedToAsset,
    /// An address in a style sheet.
    AddressToFile,
    /// A value that names a page of the site, or a link to one.
    ValueToPage,
    /// A value that names an entry of what a feature is switched on with.
    ValueToEntry,
    /// A global name that a script uses, or says that it gives.
    GlobalToScript,
    /// A feature, as the theme switches it on or asks for it, and what the host offers.
    FeatureToOffer,
    /// What asks for a feature, or feeds on it, and the feature that is switched on.
    FeedToFeature,
    /// A message, and its entry in a translation.
    MessageToEntry,
}

impl Link {
    /// All of them.
    pub const ALL: [Link; 40] = [
        Link::LayerToLayer,
        Link::PlaceToPoint,
        Link::PlaceToComponent,
        Link::ThroughToFilter,
        Link::ArgumentToInput,
        Link::AttachmentToPoint,
        Link::AttachmentToCallback,
        Link::RenderToCallback,
        Link::AttachmentToPartial,
        Link::OrderToSlot,
        Link::DetachToSlot,
        Link::ReplaceToSlot,
        Link::ReplaceToCallback,
        Link::ComponentToTemplate,
        Link::TemplateToTemplate,
        Link::ImportToMacro,
        Link::BlockToBlock,
        Link::VariableToName,
        Link::ConditionToName,
        Link::PropertyToName,
        Link::ImportToModule,
        Link::PageToType,
        Link::PageToBody,
        Link::FillToPoint,
        Link::FillToMenu,
        Link::ItemToComponent,
        Link::HoldsToComponent,
        Link::ItemKeyToInput,
        Link::ReturnToInput,
        Link::ChoiceToOption,
        Link::CopyToOriginal,
        Link::AssetToFile,
        Link::NeedToAsset,
        Link::AddressToFile,
        Link::ValueToPage,
        Link::ValueToEntry,
        Link::GlobalToScript,
        Link::FeatureToOffer,
        Link::FeedToFeature,
        Link::MessageToEntry,
    ];
}

/// What a reference can lead to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Target {
    /// A point.
    Point(Address),
    /// An input or argument of a point.
    Input(Address, Name),
    /// An export of a module.
    Export(FileId, Name),
    /// A macro of a template.
    Macro(FileId, Name),
    /// A block of a template.
    Block(FileId, Name),
    /// A whole file.
    File(FileId),
    /// A layer.
    Layer(LayerId),
    /// An attachment, by its place.
    Slot(Place),
    /// A menu of the site, by its place.
    Menu(Place),
    /// A type of page.
    PageType(Name),
    /// A name that is always there, such as `page.title` or an export of the built-in module.
    Given,
    /// A file that is not read, such as a picture.
    Media(Name),
    /// A global name that a script defines.
    Global(FileId, Name),
    /// An entry of a translation, by its place.
    Entry(Place),
}

/// Where a reference leads.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// To this.
    Found(Target),
    /// Nowhere. What was asked for is told by the target; what was most likely meant comes beside.
    Missing {
        /// What was asked for.
        wanted: Wanted,
        /// What was most likely meant.
        meant: Option<Meant>,
    },
    /// Nobody can say, because something it may lead to can't be seen.
    Unknown,
}

impl Outcome {
    /// What it leads to, where it leads somewhere.
    pub fn target(self) -> Option<Target> {
        match self {
            Outcome::Found(target) => Some(target),
            _ => None,
        }
    }
}

/// What a reference that leads nowhere asked for; equal ones are one finding.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Wanted {
    /// A point, by what was written.
    Point(Name),
    /// An input or argument of a point.
    Input(Address, Name),
    /// An export of a module, which is there.
    Export(FileId, Name),
    /// A macro of a template, which is there.
    Macro(FileId, Name),
    /// A block of what this template extends, directly or by way of others.
    Block(FileId, Name),
    /// A module that is not there, by layer and name.
    Module(LayerId, Name),
    /// A template that is not there, by what was written and, if that matters, by whom.
    Template(Name),
    /// The template of a component.
    Markup(Address),
    /// A slot of a point.
    Slot(Address, Name),
    /// A slot of any point.
    AnySlot(Name),
    /// A menu of the site.
    Menu(Name),
    /// An option of the theme.
    Option(Name),
    /// A variable of a file, joined by dots.
    Variable(FileId, Name),
    /// A name in a condition, joined by dots.
    Name(Name),
    /// A type of page.
    PageType(Name),
    /// A page of the site, by its path.
    Page(Name),
    /// An entry of an argument of a feature.
    Entry(Address, Name),
    /// Any other file, by layer and path.
    File(LayerId, Name),
    /// What an address in a file leads to.
    Address(FileId, Name),
    /// A global name that a script uses, or says that it gives.
    Global(FileId, Name),
    /// A feature that is offered, or an argument of one, switched on.
    Feature(Address),
    /// One of the custom properties that a feature sets.
    Property(Address, Name),
    /// A message in all translations.
    Message(Name),
}

/// What was most likely meant by a reference that leads nowhere. Few references have it, so that they keep no room for
/// it: each is kept once, for as long as the program runs.
#[derive(Clone, Copy, Debug)]
pub struct Meant(&'static Meaning);

static MEANT: LazyLock<Mutex<FxHashSet<&'static Meaning>>> = LazyLock::new(Default::default);

impl From<Meaning> for Meant {
    fn from(meaning: Meaning) -> Meant {
        // The set is whole whenever its lock is free, whatever happened to the thread that held it.
        let mut kept = MEANT.lock().unwrap_or_else(PoisonError::into_inner);
        let known = kept.get(&meaning).copied();
        Meant(known.unwrap_or_else(|| {
            let own: &'static Meaning = Box::leak(Box::new(meaning));
            kept.insert(own);
            own
        }))
    }
}

impl Deref for Meant {
    type Target = Meaning;

    fn deref(&self) -> &Meaning {
        self.0
    }
}

impl PartialEq for Meant {
    fn eq(&self, other: &Meant) -> bool {
        std::ptr::eq(self.0, other.0)
    }
}

impl Eq for Meant {}

/// A [`Meant`], spelled out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Meaning {
    /// How it would have to be written.
    pub written: Name,
    /// What it would lead to.
    pub target: Target,
    /// Can it be written without asking?
    pub certain: bool,
}

/// One reference, resolved once.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Reference {
    /// Which kind.
    pub link: Link,
    /// Where it stands.
    pub from: Place,
    /// The layer where it stands.
    pub layer: LayerId,
    /// What is written there.
    pub written: Name,
    /// Where it leads.
    pub outcome: Outcome,
}
