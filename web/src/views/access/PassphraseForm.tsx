import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { toast } from "sonner";
import { type AccessState, answerOf, api, asProblem } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { field, Section } from "./Section";

/** Sets the passphrase, or changes it; what was typed stays where it is refused. */
export function PassphraseForm({ access }: { access: AccessState }) {
  const client = useQueryClient();
  const [current, setCurrent] = useState("");
  const [words, setWords] = useState("");
  const [again, setAgain] = useState("");
  const [wrong, setWrong] = useState("");
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    if (words !== again) return setWrong("The two do not match.");
    try {
      const body = { passphrase: words, current: access.passphrase ? current : undefined };
      await answerOf(api.PUT("/api/v1/access/passphrase", { body }));
      setCurrent("");
      setWords("");
      setAgain("");
      setWrong("");
      toast.success("The passphrase is set. Other browsers have to sign in with it.");
      void client.invalidateQueries({ queryKey: ["access"] });
    } catch (e) {
      setWrong(asProblem(e).message);
    }
  };
  return (
    <Section title={access.passphrase ? "Change the passphrase" : "Set a passphrase"}>
      <form className="mt-3 flex flex-wrap items-end gap-3" onSubmit={submit}>
        {access.passphrase && <Words label="The one now" kind="current-password" value={current} set={setCurrent} />}
        <Words label="New passphrase" kind="new-password" value={words} set={setWords} />
        <Words label="Once more" kind="new-password" value={again} set={setAgain} />
        <Button type="submit" look="lit" className="h-9" disabled={words === "" || again === ""}>
          {access.passphrase ? "Change it" : "Set it"}
        </Button>
      </form>
      <p role="alert" className="mt-2 text-[0.93rem] text-danger empty:hidden">
        {wrong}
      </p>
      <p className="mt-3 text-[0.93rem] text-muted">
        {access.shortest_passphrase} to {access.longest_passphrase} characters; several plain words are best. It cannot
        be read back: only <code>salt-lamp passphrase</code> at this machine sets a new one without it.
      </p>
    </Section>
  );
}

type WordsProps = { label: string; kind: string; value: string; set: (value: string) => void };

function Words({ label, kind, value, set }: WordsProps) {
  const id = useId();
  return (
    <div className="flex flex-col gap-1 text-[0.93rem]">
      <label htmlFor={id}>{label}</label>
      <input
        id={id}
        type="password"
        autoComplete={kind}
        className={`${field} w-44`}
        value={value}
        onChange={(e) => set(e.target.value)}
      />
    </div>
  );
}
