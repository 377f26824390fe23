import { Link } from "react-router";
import type { NightAnswer, OfferedList } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { localTime } from "@/parts/evening";
import { percent } from "@/parts/format";
import { Words } from "@/parts/Words";

/** When it is dark, how long the target is up in it, and what the moon does. */
export function Summary({ night, site, date }: { night: NightAnswer; site: string | undefined; date: string }) {
  const { events } = night.first.view;
  const at = (t: number | null | undefined) => localTime(t, night.clock);
  return (
    <p className="text-[0.95rem]" data-testid="night-summary">
      <b className="font-medium">{night.first.target}</b> from {site}, evening of {date}:{" "}
      {events.dusk_s == null && events.dark_h === 0
        ? "it does not get dark"
        : `dark ${at(events.dusk_s)} to ${at(events.dawn_s)} (${events.dark_h.toFixed(1)} h)`}
      , target above its limit {events.usable_h.toFixed(1)} h of that, {percent(events.moonless)} of it without the
      moon; moon {percent(events.moon_lit)} lit, rises {at(events.moonrise_s)}, sets {at(events.moonset_s)}.
    </p>
  );
}

/** A list that is too long for the night, and one that fits. */
export function Offered({ list, take }: { list: OfferedList; take: (blocks: OfferedList["blocks"]) => void }) {
  return (
    <p className="flex flex-wrap items-center gap-3 rounded-lg bg-surface px-4 py-2" data-testid="night-offered">
      {list.text}
      <Button onClick={() => take(list.blocks)}>Take what fits</Button>
    </p>
  );
}

/** A night that is not dark for an hour: what it needs, and one press to allow it. */
export function Twilight({
  offer,
  allow,
}: {
  offer: NonNullable<NightAnswer["twilight"]>;
  allow: (deg: number) => void;
}) {
  const deg = offer.sun_below_deg;
  return (
    <p
      className="flex flex-wrap items-center gap-3 rounded-lg bg-surface px-4 py-2 text-amber"
      data-testid="night-twilight"
    >
      <span>
        <Words text={offer.text} />
      </span>
      {deg != null && <Button onClick={() => allow(deg)}>Plan down to {`${deg}°`.replace("-", "−")}</Button>}
    </p>
  );
}

export function NoRig() {
  return (
    <div className="mx-auto mt-24 max-w-md text-center">
      <h1 className="text-xl">A night needs a rig.</h1>
      <p className="mt-2 text-muted">
        Make a comparison on the bench first; its light paths are what a night is planned for.
      </p>
      <Link to="/bench" className="mt-4 inline-block text-salt underline underline-offset-4">
        Go to the bench
      </Link>
    </div>
  );
}
