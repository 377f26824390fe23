import { useQuery } from "@tanstack/react-query";
import { Command as Cmdk } from "cmdk";
import { Flame, Gem, Library, Moon, MoonStar, SlidersHorizontal, Sun, Telescope } from "lucide-react";
import { Dialog } from "radix-ui";
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import { Link, NavLink, useLocation, useNavigate } from "react-router";
import { api, must } from "./api/client";
import { Boundary } from "./parts/Boundary";
import { saveFile } from "./parts/save";
import { Button, Tip } from "./parts/ui";
import { commands, keysOn, setKeysOn, useCommands, useKeys } from "./shortcuts";
import { THEME_LABELS, THEMES, type Theme, useTheme } from "./theme/useTheme";
import { localTime, nightSite, type SiteEntry, tonightDate, useSites } from "./views/night/useNight";

const VIEWS = [
  { path: "/targets", key: "t", label: "Targets", Icon: Telescope },
  { path: "/bench", key: "b", label: "Bench", Icon: SlidersHorizontal },
  { path: "/night", key: "n", label: "Night", Icon: Moon },
  { path: "/campaign", key: "c", label: "Campaign", Icon: Gem },
  { path: "/shelf", key: "s", label: "Shelf", Icon: Library },
] as const;

const FootContext = createContext<(text: ReactNode) => void>(() => {});
/** Lets a view write the line at the foot. */
export const useFoot = () => useContext(FootContext);

const SHOWN_KEYS: Record<string, string> = {
  "Mod+K": "Ctrl K",
  "Mod+S": "Ctrl S",
  "Mod+Shift+Z": "Ctrl Shift Z",
  "Mod+Z": "Ctrl Z",
};

/** The frame around every view: the rail in the order of work, the foot line, the palette and the keys. */
export function Frame({ children }: { children: ReactNode }) {
  const go = useNavigate();
  const { pathname } = useLocation();
  const [theme, setTheme] = useTheme();
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  const [foot, setFoot] = useState<ReactNode>(null);
  useKeys();
  useCommands(
    useMemo(
      () => [
        ...VIEWS.map((v) => ({
          id: `go-${v.key}`,
          label: `Go to ${v.label}`,
          keys: `g ${v.key}`,
          run: () => void go(v.path),
        })),
        { id: "palette", label: "Open the command palette", keys: "Mod+K", run: () => setPalette(true) },
        { id: "help", label: "List keyboard shortcuts", keys: "?", run: () => setHelp(true) },
        ...THEMES.map((t) => ({ id: `theme-${t}`, label: `Theme: ${THEME_LABELS[t]}`, run: () => setTheme(t) })),
      ],
      [go, setTheme],
    ),
  );
  return (
    <FootContext.Provider value={setFoot}>
      <a
        href="#main"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:m-2 focus:rounded focus:bg-raised focus:p-2"
      >
        Skip to the content
      </a>
      <div className="grid min-h-dvh grid-cols-[4.75rem_minmax(0,1fr)] print:block grid-rows-[1fr_auto] max-sm:grid-cols-1">
        <nav
          aria-label="Views"
          className="sticky top-0 row-span-2 flex h-dvh flex-col items-center gap-1 bg-well py-3 print:hidden max-sm:static max-sm:row-span-1 max-sm:h-auto max-sm:flex-row max-sm:px-3 max-sm:py-1.5"
        >
          <img src="/lamp.svg" alt="Salt Lamp" className="mb-2 size-8 max-sm:mb-0" />
          {VIEWS.map(({ path, label, Icon, key }) => (
            <Tip key={path} text={`${label} (g ${key})`}>
              <NavLink
                to={path}
                className="flex w-16 flex-col items-center gap-1 rounded-lg py-2 text-[0.82rem] transition-colors text-muted hover:text-ink aria-[current=page]:bg-raised aria-[current=page]:text-salt"
              >
                <Icon size={19} strokeWidth={1.7} aria-hidden />
                {label}
              </NavLink>
            </Tip>
          ))}
          <div className="grow" />
          <ThemeSwitch theme={theme} set={setTheme} />
          <button
            type="button"
            onClick={() => setHelp(true)}
            className="mt-1 rounded px-2 py-1 text-[0.82rem] text-muted hover:text-ink"
          >
            Keys <kbd className="num">?</kbd>
          </button>
        </nav>
        <main id="main" tabIndex={-1} className="min-w-0 outline-none">
          <Boundary what="The list of what is damaged">
            <Damaged />
          </Boundary>
          {children}
        </main>
        <footer className="print:hidden sticky bottom-0 z-10 flex h-7 items-center gap-4 overflow-x-auto overflow-y-hidden border-t border-edge bg-well px-4 text-[0.86rem] whitespace-nowrap text-muted">
          {/* Tonight stays in sight: where there is little room, what a view says gives way. */}
          <div className="flex items-center gap-4 md:min-w-0 md:shrink md:overflow-hidden">{foot}</div>
          {/* A blind look must not learn the names that a campaign holds. */}
          {!pathname.startsWith("/blind") && (
            <Boundary what="Tonight">
              <Tonight />
            </Boundary>
          )}
        </footer>
      </div>
      <Palette open={palette} setOpen={setPalette} />
      <Help open={help} setOpen={setHelp} />
    </FootContext.Provider>
  );
}

/** What is stored and cannot be read: named, with its text to save; the rest goes on. */
function Damaged() {
  const { data } = useQuery({
    queryKey: ["damaged"],
    queryFn: () => must(api.GET("/api/v1/damaged")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!data?.length) return null;
  return (
    <ul
      role="status"
      className="m-3 flex flex-col gap-1 rounded-lg border border-danger/60 bg-surface px-4 py-2 text-[0.93rem]"
    >
      {data.map((d) => (
        <li key={d.what + d.id} className="flex flex-wrap items-center gap-2">
          <span className="min-w-0 grow">
            The stored {d.what} <b className="font-medium">{d.name}</b> cannot be read: {d.why}. Everything else is
            served.
          </span>
          <Button look="quiet" onClick={() => saveFile(`${d.name}.json`, "application/json", d.document)}>
            Save its text
          </Button>
        </li>
      ))}
    </ul>
  );
}

/** What the foot says of tonight: site, darkness, moon, and the campaign that is under way. */
function Tonight() {
  const sites = useSites();
  const campaigns = useQuery({ queryKey: ["campaigns"], queryFn: () => must(api.GET("/api/v1/campaigns")) });
  const campaign = campaigns.data?.[0];
  const site = sites.find((s) => s.id === campaign?.campaign.site) ?? sites[0];
  const date = tonightDate(site?.site);
  const brief = useQuery({
    queryKey: ["brief", site?.id, date],
    queryFn: () => must(api.POST("/api/v1/night/brief", { body: { site: nightSite(site as SiteEntry), date } })),
    enabled: site !== undefined,
    staleTime: 600_000,
  });
  if (!brief.data || !site) return null;
  const { events, clock } = brief.data;
  return (
    <Link to="/night" className="ml-auto flex shrink-0 gap-3 pl-4 hover:text-ink" data-testid="tonight">
      <span>
        Tonight, {site.entry.name}:{" "}
        {events.dark_h > 0
          ? `dark ${localTime(events.dusk_s, clock)}–${localTime(events.dawn_s, clock)}`
          : "it does not get dark"}
      </span>
      <span>moon {Math.round(events.moon_lit * 100)} %</span>
      {campaign && <span className="max-w-40 truncate text-amber">{campaign.campaign.title}</span>}
    </Link>
  );
}

const THEME_ICONS = { lamp: MoonStar, ember: Flame, daylight: Sun };

function ThemeSwitch({ theme, set }: { theme: Theme; set: (theme: Theme) => void }) {
  return (
    <div role="radiogroup" aria-label="Theme" className="flex flex-col rounded-full bg-surface p-0.5 max-sm:flex-row">
      {THEMES.map((t) => {
        const Icon = THEME_ICONS[t];
        return (
          <Tip key={t} text={THEME_LABELS[t]}>
            <button
              type="button"
              role="radio"
              aria-checked={theme === t}
              aria-label={THEME_LABELS[t]}
              onClick={() => set(t)}
              className={`grid size-7 place-items-center rounded-full ${theme === t ? "bg-salt text-on-salt" : "text-muted hover:text-ink"}`}
            >
              <Icon size={14} aria-hidden />
            </button>
          </Tip>
        );
      })}
    </div>
  );
}

const overlay = "fixed inset-0 z-40 bg-shade/60";
const panel =
  "rise fixed left-1/2 z-50 -translate-x-1/2 overflow-hidden rounded-xl border border-edge bg-surface shadow-2xl shadow-black/50";

/** Every word that was typed stands in the command: nothing is offered for letters that lie scattered in it. */
const holds = (command: string, typed: string) =>
  typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => command.toLowerCase().includes(word))
    ? 1
    : 0;

function Palette({ open, setOpen }: { open: boolean; setOpen: (open: boolean) => void }) {
  const list = open ? commands().filter((c) => c.id !== "palette") : [];
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className={overlay} />
        <Dialog.Content className={`${panel} top-[16vh] w-[min(36rem,92vw)]`} aria-describedby={undefined}>
          <Dialog.Title className="sr-only">Command palette</Dialog.Title>
          <Cmdk label="Commands" loop filter={holds}>
            <Cmdk.Input
              placeholder="What do you want to do?"
              className="w-full border-b border-edge bg-transparent px-4 py-3 text-[1.05rem] outline-none placeholder:text-muted"
            />
            <Cmdk.List className="max-h-80 overflow-y-auto p-1.5">
              <Cmdk.Empty className="px-3 py-4 text-muted">Nothing by that name.</Cmdk.Empty>
              {list.map((c) => (
                <Cmdk.Item
                  key={c.id}
                  value={c.label}
                  onSelect={() => {
                    setOpen(false);
                    c.run();
                  }}
                  className="flex items-center justify-between rounded-md px-3 py-1.5 data-[selected=true]:bg-raised"
                >
                  {c.label}
                  {c.keys && <kbd className="num text-[0.85rem] text-muted">{SHOWN_KEYS[c.keys] ?? c.keys}</kbd>}
                </Cmdk.Item>
              ))}
            </Cmdk.List>
          </Cmdk>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Help({ open, setOpen }: { open: boolean; setOpen: (open: boolean) => void }) {
  const list = open ? commands().filter((c) => c.keys) : [];
  const [on, setOn] = useState(keysOn);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className={overlay} />
        <Dialog.Content className={`${panel} top-[14vh] w-[min(30rem,92vw)] p-5`} aria-describedby={undefined}>
          <Dialog.Title className="mb-3 text-lg">Keyboard</Dialog.Title>
          <dl className="grid grid-cols-[1fr_auto] gap-x-6 gap-y-1.5">
            {list.map((c) => (
              <div key={c.id} className="contents">
                <dt>{c.label}</dt>
                <dd className="num text-right text-amber">{SHOWN_KEYS[c.keys ?? ""] ?? c.keys}</dd>
              </div>
            ))}
            <dt>Move a slider by a step, by ten</dt>
            <dd className="num text-right text-amber">arrows, Page Up</dd>
          </dl>
          <label className="mt-4 flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-salt"
              checked={on}
              onChange={(e) => {
                setKeysOn(e.target.checked);
                setOn(e.target.checked);
              }}
            />
            Single keys do what stands beside them; keys with Ctrl always do
          </label>
          <Dialog.Close className="mt-4 rounded-md border border-edge bg-raised px-3 py-1">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
