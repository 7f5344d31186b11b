const drawerStyle = `
:host { all: initial; }
@palette@
* { box-sizing: border-box; }
header { display: flex; gap: .5em; align-items: baseline; padding: .55em .8em .35em; }
header b { flex: 1; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
button, select, input { font: inherit; color: inherit; background: var(--raised); border: 1px solid var(--faint); border-radius: 4px; padding: .15em .6em; cursor: pointer; max-width: 100%; }
.bar, .drawer, .veil { font: 14px/1.45 system-ui, "Segoe UI", "DejaVu Sans", sans-serif; color: var(--ink); }
.bar { position: fixed; right: 12px; bottom: 12px; z-index: 2147483000; display: flex; gap: 2px; background: var(--raised);
  border: 1px solid var(--faint); border-radius: 6px; box-shadow: 0 2px 10px #0003; padding: 3px; }
.drawer { position: fixed; z-index: 2147483000; inset: auto 0 0 auto; width: min(27rem, 100vw); height: min(38rem, 88vh);
  background: var(--paper); border: 1px solid var(--faint); border-right: 0; border-bottom: 0; border-top-left-radius: 8px;
  display: grid; grid-template-rows: auto auto 1fr; box-shadow: 0 0 24px #0004; }
.drawer[hidden], .bar[hidden], .veil[hidden] { display: none; }
.veil { position: fixed; inset: 0; z-index: 2147482999; background: var(--paper); display: grid; grid-template-rows: auto 1fr; justify-items: center; }
.veil header { display: flex; gap: .6em; align-items: center; width: 100%; padding: .35em .6em; border-bottom: 1px solid var(--rule); }
.veil iframe { border: 0; width: 100%; height: 100%; background: #fff; }
.veil.narrow iframe { width: 390px; max-width: 100%; border-inline: 1px solid var(--faint); }
nav { display: flex; flex-wrap: wrap; border-bottom: 1px solid var(--rule); padding: 0 .6em; }
nav button[aria-selected="true"] { border-bottom: 3px solid var(--teal); font-weight: 600; }
nav button { border: 0; border-bottom: 3px solid transparent; border-radius: 0; background: none; padding: .35em .5em; }
.body { overflow: auto; padding: .6em .8em 1.2em; }
.bar button { border-color: transparent; padding: .2em .6em; }
.bar button.on { background: var(--sunk); border-color: var(--violet); }
:focus-visible { outline: 3px solid var(--violet); outline-offset: 1px; }
h2 { font-size: .85rem; color: var(--faint); margin: 1em 0 .3em; font-weight: 600; }
ul, ol { list-style: none; margin: 0; padding: 0; }
li { margin: .3em 0; overflow-wrap: anywhere; }
code { font: .88em ui-monospace, "DejaVu Sans Mono", monospace; background: var(--sunk); padding: .1em .3em; border-radius: 3px; overflow-wrap: anywhere; }
.found { border-left: 4px solid var(--amber); padding-left: .6em; margin: .7em 0; }
.found.error, .found.failed { border-color: var(--bad); }
.found.note { border-color: var(--faint); }
.quiet { color: var(--faint); }
summary { cursor: pointer; color: var(--faint); }
pre { font: .85em ui-monospace, "DejaVu Sans Mono", monospace; background: var(--sunk); margin: .2em 0; padding: .3em .5em; white-space: pre-wrap; overflow-wrap: anywhere; }
.state { font-style: italic; color: var(--faint); }
.steps { margin-left: .9em; border-left: 3px solid var(--violet); padding-left: .5em; }
.row { display: flex; gap: .4em; align-items: baseline; flex-wrap: wrap; margin: .25em 0; }
.row label { flex: 1 1 9em; min-width: 0; }
.row select { max-width: 100%; text-overflow: ellipsis; }
.count { display: inline-block; min-width: 1.5em; text-align: center; border-radius: 1em; background: var(--bad); color: var(--paper); font-weight: 600; }
.count.fine { background: var(--teal); }
.said { padding: .3em .8em; background: var(--sunk); border-top: 1px solid var(--rule); }
.held { background: var(--sunk); border-left: 4px solid var(--bad); padding: .4em .6em; }
@media (prefers-reduced-motion: no-preference) { .drawer { transition: none; } }
@media print { .bar, .drawer, .veil { display: none; } }
`;
