import { useQuery } from "@tanstack/react-query";
import { accessQuery } from "@/api/queries";
import { useTitle } from "@/parts/useTitle";
import { PassphraseForm } from "./PassphraseForm";
import { Sessions } from "./Sessions";
import { Tokens } from "./Tokens";

/** Who may use the program: a passphrase, the browsers that know it, and tokens for scripts. */
export function AccessPage() {
  useTitle("Who may use it");
  const { data } = useQuery(accessQuery);
  if (!data) return <p className="p-6 text-muted">Loading…</p>;
  return (
    <div className="mx-auto flex max-w-3xl flex-col gap-4 px-6 py-8">
      <div>
        <h1 className="text-2xl">Who may use it</h1>
        <p className="mt-2 max-w-prose text-muted" data-testid="access-state">
          {data.passphrase
            ? "Whoever knows the passphrase. It is asked of every browser, on this machine too; scripts carry a token."
            : "Whoever is at this machine: no passphrase is set, and the program answers this machine only. To use it from a tablet, set a passphrase here and start it again with --host 0.0.0.0."}
        </p>
      </div>
      <PassphraseForm access={data} />
      {data.passphrase && (
        <>
          <Sessions />
          <Tokens />
        </>
      )}
    </div>
  );
}
