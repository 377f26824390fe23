import { z } from "zod";

// This program's pages make no code out of text: their content security policy forbids it.
z.config({ jitless: true });

export { z };
