import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { answerOf, api, asProblem } from "@/api/client";
import { tokensQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { field, moment, Section } from "./Section";

/** Tokens for scripts: made with a name and an end, their secret shown once. */
export function Tokens() {
  const client = useQueryClient();
  const { data } = useQuery(tokensQuery);
  const [secret, setSecret] = useState("");
  const anew = () => client.invalidateQueries({ queryKey: ["access", "tokens"] });
  const end = (id: string) =>
    answerOf(api.DELETE("/api/v1/access/tokens/{id}", { params: { path: { id } } })).then(anew, fail);
  return (
    <Section title="Tokens for scripts">
      <p className="mt-1 text-[0.93rem] text-muted">
        A script sends one as <code>Authorization: Bearer SECRET</code>. It may do what you may, but not change who may
        use it.
      </p>
      <NewToken
        made={(made) => {
          setSecret(made);
          void anew();
        }}
      />
      {secret && (
        <p role="status" className="mt-3 rounded-md bg-raised px-3 py-2" data-testid="token-secret">
          Copy it now, it is not shown again:
          <code className="num mt-1 block break-all text-amber select-all">{secret}</code>
        </p>
      )}
      <ul className="mt-2 flex flex-col" data-testid="tokens">
        {data?.map((t) => (
          <li key={t.id} className="flex flex-wrap items-center gap-x-4 border-b border-edge/50 py-1.5 last:border-0">
            <span className="min-w-0 grow basis-60">
              <span className="block truncate">{t.name}</span>
              <span className="block text-[0.86rem] text-muted">
                ends {moment(t.ends_at)}, {t.used_at ? `last used ${moment(t.used_at)}` : "never used"}
              </span>
            </span>
            <Button look="quiet" onClick={() => void end(t.id)}>
              End it
            </Button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

function NewToken({ made }: { made: (secret: string) => void }) {
  const [name, setName] = useState("");
  const [days, setDays] = useState("90");
  const [wrong, setWrong] = useState("");
  const ids = [useId(), useId()];
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    try {
      const token = await answerOf(api.POST("/api/v1/access/tokens", { body: { name, days: Number(days) } }));
      setName("");
      setWrong("");
      made(token.secret);
    } catch (e) {
      setWrong(asProblem(e).message);
    }
  };
  return (
    <form className="mt-3 flex flex-wrap items-end gap-3 text-[0.93rem]" onSubmit={submit}>
      <div className="flex flex-col gap-1">
        <label htmlFor={ids[0]}>What it is for</label>
        <input id={ids[0]} className={`${field} w-60`} value={name} onChange={(e) => setName(e.target.value)} />
      </div>
      <div className="flex flex-col gap-1">
        <label htmlFor={ids[1]}>Ends after</label>
        <span className="flex items-center gap-2">
          <input
            id={ids[1]}
            inputMode="numeric"
            className={`num ${field} w-20`}
            value={days}
            onChange={(e) => setDays(e.target.value)}
          />
          days
        </span>
      </div>
      <Button type="submit" className="h-9" disabled={name.trim() === ""}>
        Make a token
      </Button>
      <p role="alert" className="basis-full text-danger empty:hidden">
        {wrong}
      </p>
    </form>
  );
}
