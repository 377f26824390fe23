import { answerOf, api } from "./client";

const TOUCHED = "salt-lamp.touched.";

/**
 * Says that a comparison which was only begun is worked on. That is remembered in this browser until the server has said yes or that
 * there is none: whoever changes something and leaves the page at once finds it in the list all the same.
 */
export async function touch(id: string): Promise<void> {
  remember(id, true);
  const call = api.POST("/api/v1/scenarios/{id}/touch", { params: { path: { id } }, keepalive: true });
  const status = (await call).response.status;
  if (status < 300 || status === 404) remember(id, false);
  await answerOf(call);
}

/** Says again what no server has answered. */
export async function touchAgain(): Promise<void> {
  // Without an answer it stays for the next time.
  await Promise.all(unanswered().map((id) => touch(id).catch(() => {})));
}

function remember(id: string, yes: boolean) {
  try {
    if (yes) localStorage.setItem(TOUCHED + id, "");
    else localStorage.removeItem(TOUCHED + id);
  } catch {
    // Without storage it is said once.
  }
}

function unanswered(): string[] {
  try {
    return Object.keys(localStorage)
      .filter((key) => key.startsWith(TOUCHED))
      .map((key) => key.slice(TOUCHED.length));
  } catch {
    return [];
  }
}
