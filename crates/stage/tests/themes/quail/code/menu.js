export const icons = (entries) => entries.map((entry) => ({ ...entry, icon: entry.href === "/" ? "home" : "dot", entries: icons(entry.entries ?? []) }));
