import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { at } from "@/api/base";
import { Button } from "@/parts/controls/Button";
import { useTitle } from "@/parts/useTitle";

type Notice = { name: string; version: string; licence: string; from: string; texts: number[] };
type Notices = { notices: Notice[]; texts: string[] };

const fetchNotices = async (): Promise<Notices> => {
  const answer = await fetch(at("/notices.json"));
  if (!answer.ok) throw new Error("This build was made without its notices: `cargo xtask demo` makes them.");
  return answer.json();
};

const GROUPS = [
  ["program", "The program"],
  ["font", "Fonts"],
  ["data", "Data"],
  ["npm", "In the interface"],
  ["crate", "In the server"],
] as const;

/** The licences of everything that this program ships, with their texts. */
export function LicencesPage() {
  useTitle("Licences");
  const [word, setWord] = useState("");
  const asked = useDeferredValue(word.trim().toLowerCase());
  const { data, error } = useQuery({
    queryKey: ["notices"],
    queryFn: fetchNotices,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const fits = (n: Notice) => `${n.name} ${n.licence}`.toLowerCase().includes(asked);
  return (
    <div className="mx-auto max-w-3xl px-6 py-6">
      <h1 className="text-2xl">Licences</h1>
      <label className="mt-3 block max-w-80 text-[0.85rem] text-muted">
        Find by name or licence
        <input
          value={word}
          onChange={(e) => setWord(e.target.value)}
          className="block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink"
        />
      </label>
      {error && (
        <p role="alert" className="mt-3 text-danger">
          {error.message}
        </p>
      )}
      {data &&
        GROUPS.map(([from, title]) => {
          const list = data.notices.filter((n) => n.from === from && fits(n));
          return list.length === 0 ? null : (
            <Group key={from} title={title} list={list} texts={data.texts} found={asked !== ""} />
          );
        })}
      {data && !data.notices.some(fits) && <p className="mt-5 text-muted">Nothing by that name or licence.</p>}
    </div>
  );
}

const FOLDED_FROM = 20;

/** What belongs together; a long list is laid out once it is asked for or something in it is looked for. */
function Group({ title, list, texts, found }: { title: string; list: Notice[]; texts: string[]; found: boolean }) {
  const [unfolded, setUnfolded] = useState(list.length < FOLDED_FROM);
  const open = unfolded || found;
  return (
    <section aria-label={title} className="mt-5">
      <div className="flex items-center gap-3">
        <h2 className="text-[1.1rem] font-medium">
          {title} <span className="num text-[0.9rem] text-muted">{list.length}</span>
        </h2>
        {!open && (
          <Button look="quiet" onClick={() => setUnfolded(true)} aria-label={`Show all ${list.length}: ${title}`}>
            Show all
          </Button>
        )}
      </div>
      {open && (
        <ul className="mt-1 flex flex-col">
          {list.map((n) => (
            <NoticeRow key={`${n.name} ${n.version}`} notice={n} texts={texts} />
          ))}
        </ul>
      )}
    </section>
  );
}

/** A name and its licence; the text is laid out once it is asked for. */
function NoticeRow({ notice, texts }: { notice: Notice; texts: string[] }) {
  const [open, setOpen] = useState(false);
  return (
    <li className="border-t border-edge/60 first:border-t-0">
      <details onToggle={(e) => setOpen(e.currentTarget.open)}>
        <summary className="flex min-h-8 cursor-pointer flex-wrap items-baseline gap-x-3 py-1 marker:text-muted">
          <span className="min-w-0 grow break-words">
            {notice.name} <span className="num text-[0.88rem] text-muted">{notice.version}</span>
          </span>
          <span className="text-[0.93rem] text-muted">{notice.licence}</span>
        </summary>
        {open &&
          notice.texts.map((at) => (
            <pre key={at} className="num mb-3 rounded-lg bg-well p-3 text-[0.8rem] break-words whitespace-pre-wrap">
              {texts[at]}
            </pre>
          ))}
      </details>
    </li>
  );
}
