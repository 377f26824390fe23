/** The path beneath which the program is reached, with a slash at its end: "/", or "/lamp/" behind a proxy. */
export const BASE = typeof document === "undefined" ? "/" : new URL(".", document.baseURI).pathname;

/** An address of the program as the browser asks for it. */
export const at = (path: string) => BASE + path.replace(/^\//, "");
