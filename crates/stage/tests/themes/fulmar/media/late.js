import { help } from "./help.js";
const more = () => import("./more.js");
new Wing(); glide();
addEventListener("click", more); help();
