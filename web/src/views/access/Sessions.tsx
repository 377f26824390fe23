import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answerOf, api } from "@/api/client";
import { sessionsQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { moment, Section } from "./Section";

/** The browsers that are signed in, each with a way out. */
export function Sessions() {
  const client = useQueryClient();
  const { data } = useQuery(sessionsQuery);
  const anew = () => client.invalidateQueries({ queryKey: ["access"] });
  const end = (id: string) =>
    answerOf(api.DELETE("/api/v1/access/sessions/{id}", { params: { path: { id } } })).then(anew, fail);
  const everywhere = () => answerOf(api.DELETE("/api/v1/access/sessions")).then(anew, fail);
  return (
    <Section title="Signed-in browsers">
      <ul className="mt-2 flex flex-col" data-testid="sessions">
        {data?.sessions.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-x-4 border-b border-edge/50 py-1.5 last:border-0">
            <span className="min-w-0 grow basis-60">
              <span className="block truncate" title={s.told}>
                {s.id === data.own && <b className="font-medium text-amber">This one: </b>}
                {s.told}
              </span>
              <span className="block text-[0.86rem] text-muted">
                since {moment(s.created_at)}, last seen {moment(s.seen_at)}
              </span>
            </span>
            <Button look="quiet" onClick={() => void end(s.id)}>
              Sign out
            </Button>
          </li>
        ))}
      </ul>
      <Button look="danger" className="mt-2" onClick={() => void everywhere()}>
        Sign out everywhere
      </Button>
    </Section>
  );
}
