import { useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type FormEvent, useState } from "react";
import { answerOf, api, asProblem } from "@/api/client";
import { letIn, useStranger } from "@/api/stranger";
import { Button } from "@/parts/controls/Button";
import { panel } from "./dialog";

/** Asks for the passphrase, over whatever stood there: nothing typed beneath is lost. */
export function SignIn() {
  const stranger = useStranger();
  return (
    <Dialog.Root open={stranger}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ground" />
        <Dialog.Content
          className={`${panel} top-[18vh] w-[min(24rem,92vw)] p-7`}
          onEscapeKeyDown={(e) => e.preventDefault()}
          onInteractOutside={(e) => e.preventDefault()}
        >
          <Dialog.Title className="text-xl">Salt Lamp</Dialog.Title>
          <Dialog.Description className="mt-1 text-muted">
            Give the passphrase of this Salt Lamp. What you had open stays as it was.
          </Dialog.Description>
          {stranger && <Passphrase />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Passphrase() {
  const client = useQueryClient();
  const [words, setWords] = useState("");
  const [wrong, setWrong] = useState("");
  const [waiting, setWaiting] = useState(false);
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    setWaiting(true);
    try {
      await answerOf(api.POST("/api/v1/access/sign-in", { body: { passphrase: words } }));
      letIn();
      void client.invalidateQueries();
    } catch (e) {
      setWrong(asProblem(e).message);
      setWaiting(false);
    }
  };
  return (
    <form className="mt-5 flex flex-col gap-3" onSubmit={submit}>
      <label className="flex flex-col gap-1 text-[0.93rem]">
        Passphrase
        <input
          type="password"
          autoComplete="current-password"
          className="h-11 rounded-md border border-edge bg-well px-3 text-ink"
          value={words}
          aria-invalid={wrong !== ""}
          aria-describedby="sign-in-wrong"
          onChange={(e) => setWords(e.target.value)}
        />
      </label>
      <p id="sign-in-wrong" role="alert" className="min-h-5 text-[0.93rem] text-danger">
        {wrong}
      </p>
      <Button type="submit" look="lit" className="h-11 justify-center" disabled={waiting || words === ""}>
        Sign in
      </Button>
    </form>
  );
}
