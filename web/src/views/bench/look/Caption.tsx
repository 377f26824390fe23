import type { LookWords } from "@/api/client";
import { clock } from "@/parts/format";
import { contenderMark } from "@/theme/marks";

type Props = { index: number; name: string | undefined; words: LookWords | undefined };

/** A crop's caption: whose it is, and what it comes out like in a few words; the sentences open beneath. */
export function Caption({ index, name, words }: Props) {
  const { colour, letter } = contenderMark(index);
  return (
    <figcaption className="mt-0.5 text-[0.86rem] leading-snug">
      <b style={{ color: colour }}>{letter}</b> {name}
      {words && (
        <>
          <span className="block text-muted">
            {words.stacked_s > 0 ? clock(words.stacked_s) : "One sub"}: {words.caption}
          </span>
          <details className="group">
            <summary className="w-fit cursor-pointer text-[0.82rem] text-salt underline underline-offset-4 max-md:py-2">
              What {letter} shows
            </summary>
            <ul className="mt-1 flex flex-col gap-1 text-muted" data-testid={`look-details-${letter}`}>
              {[words.cast.text, words.halos.text, words.gradient_text, words.stars.text].map(
                (text) => text && <li key={text}>{text}</li>,
              )}
            </ul>
          </details>
        </>
      )}
    </figcaption>
  );
}
