export function help() { for (const a of document.querySelectorAll("a[href^='#']")) a.id ||= "x"; }
