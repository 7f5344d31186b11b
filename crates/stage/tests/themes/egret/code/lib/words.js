export default function shout(text) { return text.toUpperCase(); }
export const quiet = (text) => text.toLowerCase();
export const name = "loud";
