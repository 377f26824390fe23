import { Tooltip as RTooltip } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";

type ButtonProps = ComponentProps<"button"> & { look?: "plain" | "lit" | "quiet" | "danger" };

export function Button({ look = "plain", className = "", ...rest }: ButtonProps) {
  const looks = {
    plain: "bg-raised text-ink hover:bg-edge border border-edge",
    lit: "bg-salt text-on-salt font-semibold hover:brightness-110 border border-transparent",
    quiet: "text-muted hover:text-ink hover:bg-raised border border-transparent",
    danger: "text-danger hover:bg-raised border border-transparent",
  };
  return (
    <button
      type="button"
      className={`inline-flex h-8 items-center gap-1.5 rounded-md ${className.includes("px-") ? "" : "px-2.5"} text-[0.93rem] whitespace-nowrap transition-colors disabled:opacity-45 ${looks[look]} ${className}`}
      {...rest}
    />
  );
}

export function IconButton({
  label,
  children,
  className = "",
  ...rest
}: Omit<ButtonProps, "aria-label"> & { label: string }) {
  return (
    <Tip text={label}>
      <Button look="quiet" aria-label={label} className={`w-8 justify-center px-0 ${className}`} {...rest}>
        {children}
      </Button>
    </Tip>
  );
}

export function Tip({ text, children }: { text: ReactNode; children: ReactNode }) {
  return (
    <RTooltip.Root>
      <RTooltip.Trigger asChild>{children}</RTooltip.Trigger>
      <RTooltip.Portal>
        <RTooltip.Content
          sideOffset={6}
          collisionPadding={8}
          className="rise z-50 max-w-80 rounded-md border border-edge bg-raised px-2.5 py-1.5 text-[0.9rem] text-ink shadow-xl shadow-black/40"
        >
          {text}
        </RTooltip.Content>
      </RTooltip.Portal>
    </RTooltip.Root>
  );
}
