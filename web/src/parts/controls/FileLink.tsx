import { Download } from "lucide-react";
import type { ReactNode } from "react";

type Props = { href: string; name?: string; children: ReactNode };

/** A file that is had by following a link, in the shape of a button. */
export function FileLink({ href, name, children }: Props) {
  return (
    <a
      className="inline-flex h-8 items-center gap-1.5 rounded-md border border-edge bg-raised px-2.5 text-[0.93rem] hover:bg-edge"
      href={href}
      download={name ?? true}
    >
      <Download size={14} aria-hidden /> {children}
    </a>
  );
}
