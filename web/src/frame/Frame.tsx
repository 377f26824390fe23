import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { Boundary } from "@/parts/Boundary";
import { useCommands, useKeys } from "@/parts/shortcuts";
import { StatusLineContext } from "@/parts/statusLine";
import { THEME_LABELS, THEMES, useTheme } from "@/theme/useTheme";
import { Damaged } from "./Damaged";
import { focusMain } from "./dialog";
import { Help } from "./Help";
import { Palette } from "./Palette";
import { Bar, Rail, VIEWS } from "./Rail";
import { Tonight } from "./Tonight";
import { Troubles } from "./Troubles";
import { useNarrow } from "./useNarrow";

/** The frame around every view: the rail in the order of work, the foot line, the palette and the keys. */
export function Frame({ children }: { children: ReactNode }) {
  const go = useNavigate();
  const { pathname } = useLocation();
  const [, setTheme] = useTheme();
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  const [statusText, setStatusText] = useState<ReactNode>(null);
  const narrow = useNarrow();
  useKeys();
  useReadingFollows(pathname);
  useCommands(
    useMemo(
      () => [
        ...[...VIEWS, { path: "/about", key: "a", label: "About" }].map((v) => ({
          id: `go-${v.key}`,
          label: `Go to ${v.label}`,
          keys: `g ${v.key}`,
          run: () => void go(v.path),
        })),
        { id: "access", label: "Who may use it: passphrase, browsers, tokens", run: () => void go("/access") },
        { id: "guide", label: "Read the guide", run: () => void go("/guide") },
        { id: "palette", label: "Open the command palette", keys: "Mod+K", run: () => setPalette(true) },
        { id: "help", label: "List keyboard shortcuts", keys: "?", run: () => setHelp(true) },
        ...THEMES.map((t) => ({ id: `theme-${t}`, label: `Theme: ${THEME_LABELS[t]}`, run: () => setTheme(t) })),
      ],
      [go, setTheme],
    ),
  );
  return (
    <StatusLineContext.Provider value={setStatusText}>
      <a
        href="#main"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:m-2 focus:rounded focus:bg-raised focus:p-2"
      >
        Skip to the content
      </a>
      <div className="grid min-h-dvh grid-cols-[4.75rem_minmax(0,1fr)] grid-rows-[1fr_auto] print:block max-sm:grid-cols-[minmax(0,1fr)] max-sm:pb-14">
        {!narrow && <Rail help={() => setHelp(true)} />}
        <main id="main" tabIndex={-1} className="min-w-0 outline-none">
          <Boundary what="The list of what is damaged">
            <Damaged />
          </Boundary>
          {children}
        </main>
        <footer className="z-10 flex min-h-7 items-center gap-4 border-t border-edge bg-well px-4 text-[0.86rem] text-muted sm:sticky sm:bottom-0 sm:h-7 sm:overflow-hidden sm:whitespace-nowrap print:hidden">
          {/* Tonight stays in sight: where there is little room, what a view says gives way. */}
          <Boundary what="The state of the store">
            <Troubles />
          </Boundary>
          <div className="flex min-w-0 shrink items-center gap-4 overflow-hidden max-md:hidden">{statusText}</div>
          {/* A blind look must not learn the names that a campaign holds. */}
          {!pathname.startsWith("/blind") && (
            <Boundary what="Tonight">
              <Tonight />
            </Boundary>
          )}
        </footer>
        {narrow && <Bar help={() => setHelp(true)} />}
      </div>
      <Palette open={palette} setOpen={setPalette} />
      <Help open={help} setOpen={setHelp} />
    </StatusLineContext.Provider>
  );
}

/** Another view begins at its top, and whoever reads by keyboard or ear goes on there. */
function useReadingFollows(pathname: string) {
  const was = useRef(pathname);
  useEffect(() => {
    if (was.current === pathname) return;
    was.current = pathname;
    window.scrollTo(0, 0);
    focusMain();
  }, [pathname]);
}
