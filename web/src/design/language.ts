/** The language that the front end was built in, with the country whose dates it has. */
export const LANGUAGE = typeof document === "undefined" ? "en-GB" : document.documentElement.lang || "en-GB";
