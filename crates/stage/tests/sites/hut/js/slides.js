var Slides = { list: [] };
