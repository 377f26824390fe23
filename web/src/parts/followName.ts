const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");

/**
 * A name that follows what it names: where it holds what the thing was called, it holds what the thing is called now. A name that its
 * user gave it holds neither, and stays.
 */
export const followName = (name: string, was: string, is: string): string =>
  was && was !== is && name.includes(was) ? name.replace(was, is).slice(0, 200) : name;

/** The same for a width: "H-alpha 3 nm" of a band that is 5 nm wide now is "H-alpha 5 nm". */
export const followWidth = (name: string, was_nm: number, is_nm: number): string =>
  was_nm === is_nm
    ? name
    : name.replace(new RegExp(`(?<![\\d.])${escaped(String(was_nm))} nm`), `${Number(is_nm.toPrecision(4))} nm`);
