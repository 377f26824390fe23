import { useQuery } from "@tanstack/react-query";
import { Search } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { TargetKind } from "@/api/client";
import { libraryQuery, targetsQuery } from "@/api/queries";
import { Choice } from "@/parts/controls/Choice";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { FoundList } from "./FoundList";
import { ANY, Narrowing } from "./Narrowing";
import { ObjectView } from "./ObjectView";
import { TonightList } from "./TonightList";

/** The catalogue: what there is, what it emits, and how it sits on a sensor. */
export function TargetsPage() {
  const [params, edit] = useParamsEdit();
  const setStatusLine = useStatusLine();
  const field = useRef<HTMLInputElement>(null);
  const set = useCallback(
    (key: string, value: string) =>
      edit((p) => {
        if (value && value !== ANY) p.set(key, value);
        else p.delete(key);
      }),
    [edit],
  );
  const [text, kind, constellation, size] = ["text", "kind", "in", "size"].map((k) => params.get(k) ?? "") as [
    string,
    string,
    string,
    string,
  ];
  // What is typed stands at once; the address follows, and may lag behind quick fingers.
  const [typed, setTyped] = useState(text);
  useEffect(() => {
    if (document.activeElement !== field.current) setTyped(text);
  }, [text]);
  const [low, high] = size.split("-").map((s) => (s ? Number(s) : undefined));
  const query = {
    text,
    ...(kind && { kind: kind as TargetKind }),
    ...(constellation && { constellation }),
    ...(low !== undefined && { at_least_arcmin: low }),
    ...(high !== undefined && { at_most_arcmin: high }),
  };
  const library = useQuery(libraryQuery);
  const found = useQuery(targetsQuery(query));
  const kinds = useMemo(
    () => [...new Map(library.data?.targets.map((t) => [t.kind, t.label])).entries()],
    [library.data],
  );
  const kindLabel = useCallback((k: string) => kinds.find(([key]) => key === k)?.[1] ?? k, [kinds]);
  const name = params.get("object") ?? (text ? found.data?.objects[0]?.name : undefined) ?? "IC 443";
  useTitle(params.get("object") ? `${name}, targets` : "Targets");
  useCommands(
    useMemo(() => [{ id: "find-target", label: "Find a target", keys: "/", run: () => field.current?.focus() }], []),
  );
  useEffect(() => {
    setStatusLine(
      found.data
        ? `${found.data.matches.toLocaleString("en").replaceAll(",", " ")} ${found.data.matches === 1 ? "object matches" : "objects match"}. Catalogue data: OpenNGC (CC-BY-SA 4.0), catalogues of nebulae (BSD), and a list by hand.`
        : "",
    );
    return () => setStatusLine(null);
  }, [setStatusLine, found.data]);
  return (
    <div className="grid grid-cols-[20rem_minmax(0,1fr)] gap-3 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)]">
      <div className="min-w-0">
        <h1 className="mb-2 text-[1.3rem]">Targets</h1>
        <div className="flex h-9 items-center gap-2 rounded-lg border border-edge bg-well px-2.5 focus-within:border-edge-strong">
          <Search size={16} className="text-muted" aria-hidden />
          <input
            ref={field}
            aria-label="Find a target by name"
            placeholder="Heart, M 33, Sh2-101, vdB 142…"
            value={typed}
            onChange={(e) => {
              setTyped(e.target.value);
              set("text", e.target.value);
            }}
            className="w-full bg-transparent outline-none placeholder:text-muted"
          />
          <kbd className="num text-[0.8rem] text-muted">/</kbd>
        </div>
        <Narrowing {...{ kind, constellation, size, kinds, set }} />
        <Choice
          label="List"
          className="mt-2 flex gap-1"
          value={params.get("list") ?? ""}
          onChange={(v) => set("list", v)}
          options={[
            { value: "", label: "All that match" },
            { value: "tonight", label: "Worth tonight" },
          ]}
        />
        {params.get("list") === "tonight" && library.data ? (
          <TonightList library={library.data} kind={kind} chosen={name} choose={(n) => set("object", n)} />
        ) : (
          <FoundList found={found.data} kindLabel={kindLabel} chosen={name} choose={(n) => set("object", n)} />
        )}
      </div>
      {library.data && <ObjectView key={name} name={name} library={library.data} kindLabel={kindLabel} />}
    </div>
  );
}
