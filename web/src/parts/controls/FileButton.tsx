import { FileUp } from "lucide-react";
import { type ComponentProps, useRef } from "react";
import { Button } from "./Button";

type Props = Omit<ComponentProps<typeof Button>, "onClick"> & {
  /** What the file is, for screen readers. */
  label: string;
  accept: string;
  take: (file: File) => void;
};

/** A button that opens a file. The same file can be chosen again. */
export function FileButton({ label, accept, take, children, ...rest }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => input.current?.click()} {...rest}>
        <FileUp size={14} aria-hidden /> {children}
      </Button>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) take(file);
        }}
      />
    </>
  );
}
