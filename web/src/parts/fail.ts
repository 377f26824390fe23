import { toast } from "sonner";

/** Says what went wrong, in the server's own words where it has some. */
export const fail = (e: unknown) => void toast.error((e as Error).message, { duration: 10_000 });
