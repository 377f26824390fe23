import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Scenario } from "@/api/client";
import { coordinatesQuery, targetQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { frameWords, framingLink } from "@/parts/framing";
import { PasteCoordinates } from "@/parts/PasteCoordinates";

type Props = { scenario: Scenario; change: (edit: (draft: Scenario) => void) => void };

/** Where the target stands: what lies before it, and how fast it trails, hang on that. */
export function TargetPlace({ scenario, change }: Props) {
  const client = useQueryClient();
  const { name, right_ascension_deg: ra, declination_deg: dec } = scenario.target;
  const known = ra != null && dec != null;
  const said = useQuery({ ...coordinatesQuery(ra ?? 0, dec ?? 0), enabled: known });
  const put = (ra_deg: number | null, dec_deg: number | null) =>
    change((s) => {
      s.target.right_ascension_deg = ra_deg;
      s.target.declination_deg = dec_deg;
    });
  const lookUp = async () => {
    try {
      const { object } = await client.fetchQuery(targetQuery(name));
      put(object.ra_deg, object.dec_deg);
    } catch (e) {
      fail(e);
    }
  };
  return (
    <section aria-label="Where the target stands" className="mt-3">
      <div className="flex items-center gap-2 text-[0.9rem]">
        <span className="min-w-0 grow" data-testid="target-place">
          {known ? (
            <span className="num">{said.data ? `${said.data.ra} ${said.data.dec}` : "…"}</span>
          ) : (
            <span className="text-muted">Its place is not given: no Milky Way, no zodiacal light.</span>
          )}
        </span>
        {known ? (
          <Button look="quiet" onClick={() => put(null, null)}>
            Forget
          </Button>
        ) : (
          <Button onClick={() => void lookUp()} data-testid="place-from-catalogue">
            From the catalogue
          </Button>
        )}
      </div>
      {scenario.frame && (
        <div className="mt-2 text-[0.9rem]" data-testid="frame">
          <p className="text-muted">{frameWords(scenario.frame)}</p>
          <p className="flex items-center gap-3">
            <Link
              className="whitespace-nowrap text-amber underline-offset-2 hover:underline"
              to={framingLink(name, scenario.frame)}
            >
              Show it on the sky
            </Link>
            <Button look="quiet" onClick={() => change((s) => void delete s.frame)}>
              Forget the framing
            </Button>
          </p>
        </div>
      )}
      <PasteCoordinates
        label="Its coordinates, in any usual form, or a frame's header"
        take={(at) => put(at.ra_deg, at.dec_deg)}
        testId="target-coordinates"
      />
    </section>
  );
}
