/** Markup: it is printed as it is. Only `html` makes it. */
interface Markup {
  readonly markup: unique symbol;
  toString(): string;
}

/** What can be printed. Texts are escaped, markup is not; nothing, null and false print nothing. */
type Printable = Markup | string | number | boolean | null | undefined | readonly Printable[];

/** An item: a component as content, with what it is given. */
interface Item {
  use: string;
  holds?: Item[];
  [input: string]: any;
}

/** An entry of a menu. */
interface Entry {
  label: string;
  href?: string;
  entries?: Entry[];
  [key: string]: any;
}

/** The theme that renders the page. */
interface Theme {
  name: string;
  label: string;
  about: string;
  version: string;
  picture: string;
}

/** What moments can keep for a site. */
interface Store {
  get(key: string): any;
  set(key: string, value: unknown): void;
}

/** The addresses of points whose callbacks have some property. */
type With<Key extends string> = { [Address in keyof Points]: Points[Address] extends { [K in Key]: any } ? Address : never }[keyof Points];

/** What every callback is told of the page. */
type Context<Address extends keyof Points> = {
  page: Page;
  site: Points[Address] extends { moment: true } ? Site & { store: Store } : Site;
  options: Options;
  theme: Theme;
  args: Points[Address]["args"];
  point: string;
};

/** What a listener or renderer gives: markup, text or nothing. */
type Output = Markup | string | false | null | undefined;

/** Attached to a hook: gives markup, text or nothing. */
type Listener<Address extends With<"hook"> | With<"moment">> = [Address] extends [With<"hook"> | With<"moment">] ? (context: Context<Address>) => Output | void : never;
/** Attached to a filter: gets the value, and gives the new one. */
type Filter<Address extends With<"value">> = [Address] extends [With<"value">] ? (value: Points[Address]["value"], context: Context<Address>) => Points[Address]["value"] : never;
/** Attached to a region, area or menu spot: gets the list, and gives the new one. */
type Arranger<Address extends With<"items">> = [Address] extends [With<"items">] ? (items: Points[Address]["items"][], context: Context<Address>) => Points[Address]["items"][] : never;
/** Attached to a component or template: gets its inputs, and gives the new ones. */
type Preparer<Address extends With<"inputs">> = [Address] extends [With<"inputs">] ? (inputs: Points[Address]["inputs"], context: Context<Address>) => Points[Address]["inputs"] : never;
/** Renders a component. */
type Renderer<Address extends With<"inputs">> = [Address] extends [With<"inputs">] ? (inputs: Points[Address]["inputs"], context: Context<Address>) => Output : never;

/** Markup from a text with gaps; what goes into them is escaped, unless it is markup. */
function html(strings: TemplateStringsArray, ...values: Printable[]): Markup;
/** What a component prints. */
function place<Address extends With<"passed">>(address: Address, ...passed: {} extends Points[Address]["passed"] ? [Points[Address]["passed"]?] : [Points[Address]["passed"]]): Markup;
/** What a hook, region, area or menu spot prints. */
function place<Address extends With<"hook"> | With<"items">>(address: Address, args?: Points[Address]["args"]): Markup;
/** The page's sections, or what the component at hand holds. */
function place(outlet: "sections" | "held"): Markup;
/** A value, sent through a filter. */
function through<Address extends With<"value">>(address: Address, value: Points[Address]["value"], ...args: {} extends Points[Address]["args"] ? [Points[Address]["args"]?] : [Points[Address]["args"]]): Points[Address]["value"];
/** Is a feature switched on, or an argument of it? */
function enabled(feature: FeatureAddress | `${FeatureAddress}.${string}`): boolean;
/** The address of a file of the theme, or of a style or script by its address. */
function asset(path: string): string;
/** A message in the site's language; what is in braces is put in. Where one of that is markup, so is all of it. */
function t(message: string, values?: { [name: string]: string | number }): string;
function t(message: string, values: { [name: string]: Printable }): Markup | string;
/** Writes into the trace. */
function note(value: unknown): void;
