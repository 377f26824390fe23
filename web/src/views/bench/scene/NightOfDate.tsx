import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import type { Scenario, SkyNow } from "@/api/client";
import { momentQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { Card } from "@/parts/controls/Card";
import { localTime, nightSite, tonightDate, useSites } from "@/parts/evening";
import type { SceneProps } from "./SceneCard";

type Props = Pick<SceneProps, "scenario" | "change">;

const tenth = (x: number) => Math.round(x * 10) / 10;

/** The site of a scene's sky, else the usual one, and the sky over its target at its best moment of an evening there. */
function useMoment(scenario: Scenario, asked?: string) {
  const sites = useSites();
  const site = sites.find((s) => s.entry.name === scenario.sky.site) ?? sites[0];
  const date = asked ?? tonightDate(site?.site);
  const { name, right_ascension_deg: ra, declination_deg: dec } = scenario.target;
  const place = ra != null && dec != null ? { place: { ra_deg: ra, dec_deg: dec } } : {};
  const moment = useQuery(
    momentQuery(site && (name || "place" in place) ? { site: nightSite(site), date, target: name, ...place } : null),
  );
  return { site, date, moment };
}

/** Puts the sky of an evening into the scene: heights, moon and twilight. */
const take = (now: SkyNow) => (s: Scenario) => {
  s.sky.target_altitude_deg = tenth(now.target_altitude_deg);
  s.sky.target_azimuth_deg = tenth(now.target_azimuth_deg);
  s.sky.sun_altitude_deg = tenth(now.sun_altitude_deg);
  s.sky.moon = now.moon
    ? {
        phase_angle_deg: tenth(now.moon.phase_angle_deg),
        altitude_deg: tenth(now.moon.altitude_deg),
        separation_deg: tenth(now.moon.separation_deg),
      }
    : null;
};

/** Where the moon stands then, in words. */
const said = (now: SkyNow, what: string) =>
  now.moon
    ? `${Math.round(now.moon_lit * 100)} % lit, ${Math.round(now.moon.altitude_deg)}° up and ${Math.round(now.moon.separation_deg)}° from ${what}`
    : "down";

/** Tonight's moon for the site, one click from the scene. */
export function NightOfDate({ scenario, change }: Props) {
  const { site, moment } = useMoment(scenario);
  const now = moment.data;
  const what = scenario.target.name || "the target";
  return (
    <div className="col-span-2 flex items-start justify-between gap-2 text-[0.93rem] leading-5" data-testid="moon-off">
      <p className="text-muted">
        {now && site
          ? `Tonight, ${site.entry.name}, when ${what} stands highest (${localTime(now.at_s, now.clock)}): ${said(now, what)}.`
          : moment.data === null
            ? `${what} does not rise tonight${site ? ` at ${site.entry.name}` : ""}.`
            : "Switch it on to see what it costs each filter: the blue lines suffer first."}
      </p>
      {now && (
        <Button className="h-7 shrink-0" onClick={() => change(take(now))}>
          Put it in
        </Button>
      )}
    </div>
  );
}

/** Any evening's sky: moon, the target's height and twilight at its best moment. */
export function TakeNight({ scenario, change }: Props) {
  const [asked, setAsked] = useState<string>();
  const [open, setOpen] = useState(false);
  const { site, date, moment } = useMoment(scenario, asked);
  const now = moment.data;
  const what = scenario.target.name || "the target";
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="rounded px-1.5 text-[0.86rem] text-muted underline decoration-dotted underline-offset-3 hover:text-ink">
        of a date
      </Popover.Trigger>
      <Card label="The sky of a date" className="w-[min(20rem,94vw)] p-4">
        <label className="text-[0.85rem] text-muted">
          Evening{site ? ` at ${site.entry.name}` : ""}
          <input
            type="date"
            value={date}
            onChange={(e) => e.target.value && setAsked(e.target.value)}
            className="num mt-0.5 block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink"
          />
        </label>
        <p className="mt-2 text-[0.93rem]" data-testid="date-words">
          {moment.error
            ? moment.error.message
            : !site
              ? "A site of the kit says where the moon stands."
              : now === null
                ? `${what} does not rise in that night.`
                : now
                  ? `${what} stands highest at ${localTime(now.at_s, now.clock)}, ${Math.round(now.target_altitude_deg)}° up${now.dark ? "" : ", and it does not get dark"}; the moon is ${said(now, "it")}.`
                  : "…"}
        </p>
        <div className="mt-2 flex justify-end">
          <Button
            look="lit"
            disabled={!now}
            onClick={() => {
              if (now) change(take(now));
              setOpen(false);
            }}
          >
            Take this night
          </Button>
        </div>
      </Card>
    </Popover.Root>
  );
}
