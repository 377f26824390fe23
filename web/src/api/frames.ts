import { at } from "./base";
import { problemOf, reached } from "./client";

/** One picture as the server packs it. */
export type Picture = { width: number; height: number; image: ImageData };

/** Takes packed pictures apart: count, then width and height of each (little-endian u32), then four bytes a pixel. */
export function unpack(buffer: ArrayBuffer): Picture[] {
  const view = new DataView(buffer);
  const count = view.getUint32(0, true);
  let at = 4 + count * 8;
  return Array.from({ length: count }, (_, i) => {
    const width = view.getUint32(4 + i * 8, true);
    const height = view.getUint32(8 + i * 8, true);
    const image = new ImageData(new Uint8ClampedArray(buffer, at, width * height * 4), width, height);
    at += width * height * 4;
    return { width, height, image };
  });
}

/** Asks for bytes; an answer that is none is a ProblemError like any other. */
export async function bytes(path: string, body?: unknown): Promise<ArrayBuffer> {
  const call = fetch(at(path), {
    method: body === undefined ? "GET" : "POST",
    ...(body !== undefined && { headers: { "content-type": "application/json" }, body: JSON.stringify(body) }),
  });
  const answer = await reached(call);
  if (!answer.ok) throw problemOf(answer, await answer.json().catch(() => null));
  return reached(answer.arrayBuffer());
}
