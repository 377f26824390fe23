import { Link } from "react-router";
import { useTitle } from "@/parts/useTitle";

declare const __VERSION__: string;

const LINKS = [
  ["/access", "Who may use it", "A passphrase for other machines, signed-in browsers, and tokens for scripts."],
  ["/guide", "Guide", "A first comparison, then every view in turn."],
  ["/guide/formats", "Formats", "The documents and files that are read and written, field by field."],
  ["/guide/sources", "Where the data comes from", "Spectra, catalogue and typical gear, each with its origin."],
  ["/licences", "Licences", "Of the program, its fonts and data, and of everything that it is built from."],
] as const;

/** What this is, in which version, and where to read on. */
export function AboutPage() {
  useTitle("About");
  return (
    <div className="mx-auto max-w-2xl px-6 py-8">
      <h1 className="text-2xl">Salt Lamp</h1>
      <p className="num text-muted" data-testid="version">
        version {__VERSION__}
      </p>
      <p className="mt-3">
        For a camera, a sky, a moon and a target it works out which filter, which gain, how long a sub and how much time
        in all, and says why. Everything is computed on the machine that serves it; nothing is fetched from a network.
      </p>
      <ul className="mt-5 flex flex-col gap-2">
        {LINKS.map(([to, name, what]) => (
          <li key={to}>
            <Link to={to} className="block rounded-xl bg-surface px-4 py-2.5 hover:bg-raised">
              <span className="text-salt">{name}</span>
              <span className="block text-[0.93rem] text-muted">{what}</span>
            </Link>
          </li>
        ))}
      </ul>
    </div>
  );
}
