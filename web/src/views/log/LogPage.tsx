import { useQuery } from "@tanstack/react-query";
import { logSessionQuery, logSessionsQuery, useLogNews } from "@/api/log";
import { clock } from "@/parts/format";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Folders } from "./Folders";
import { NightDetail } from "./NightDetail";

/** The log: nights, their frames with what each was worth, and where frames come from. */
export function LogPage() {
  const [params, edit] = useParamsEdit();
  useLogNews();
  const text = params.get("text") ?? "";
  const nights = useQuery(logSessionsQuery(text));
  const list = nights.data ?? [];
  const id = params.get("night") ?? list[0]?.id ?? "";
  const night = useQuery(logSessionQuery(id));
  useTitle(night.data ? `Log, ${night.data.session.night}` : "Log");
  const open = (session: string) =>
    edit((p) => {
      p.set("night", session);
      p.delete("frame");
    });
  return (
    <div className="grid grid-cols-[16rem_minmax(0,1fr)] gap-4 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)]">
      <div>
        <h1 className="mb-2 text-[1.3rem]">Log</h1>
        <input
          type="search"
          aria-label="Find nights"
          placeholder="Object, filter, camera, note"
          value={text}
          onChange={(e) => edit((p) => (e.target.value ? p.set("text", e.target.value) : p.delete("text")))}
          className="mb-2 h-8 w-full rounded-md border border-edge bg-well px-2"
        />
        <ul className="flex flex-col gap-0.5" data-testid="nights">
          {list.map((n) => (
            <li key={n.id}>
              <button
                type="button"
                aria-current={n.id === id}
                onClick={() => open(n.id)}
                className={`w-full truncate rounded-lg px-2.5 py-1 text-left ${n.id === id ? "bg-raised" : "hover:bg-surface"}`}
              >
                {n.night} · {n.objects || "no name"}
                <span className="block truncate text-[0.82rem] text-muted">
                  {n.lights} {n.lights === 1 ? "frame" : "frames"}, {clock(n.exposed_s)}
                  {n.filters && ` · ${n.filters.replaceAll(",", ", ")}`}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {nights.data && list.length === 0 && (
          <p className="text-muted" data-testid="log-empty">
            {text
              ? "No night holds these letters."
              : "Nothing has come in yet. Watch the folder that your camera writes to, or drop frames: each is measured, held against the others of its night, and kept or put aside with its reason."}
          </p>
        )}
        <Folders opened={open} />
      </div>
      {night.data && (
        <NightDetail
          key={night.data.session.id}
          night={night.data}
          chosen={params.get("frame")}
          choose={(frame) => edit((p) => p.set("frame", frame))}
        />
      )}
      {night.error && <p className="text-danger">{night.error.message}</p>}
    </div>
  );
}
