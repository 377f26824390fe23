import { Check, Eye, OctagonAlert } from "lucide-react";
import type { FrameVerdict, Scenario } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { mag, seconds } from "@/parts/format";
import { Words } from "@/parts/Words";
import { measuredThere } from "../measuredThere";

type Standing = FrameVerdict["sentences"][number]["standing"];

const MARKS: Record<Standing, { word: string; colour: string; Icon: typeof Check }> = {
  good: { word: "As it should be", colour: "text-muted", Icon: Check },
  look: { word: "Worth a look", colour: "text-amber", Icon: Eye },
  wrong: { word: "Wrong", colour: "text-danger", Icon: OctagonAlert },
};

const ABOUT: Record<string, string> = {
  header: "Settings",
  sub: "Sub",
  clipping: "Clipping",
  stars: "Stars",
  sky: "Sky",
  noise: "Noise",
  target: "Target",
  gradient: "Gradient",
};

type Props = {
  verdict: FrameVerdict;
  scenario: Scenario;
  contender: number;
  exposure: number;
  change: (edit: (draft: Scenario) => void) => void;
};

/** The verdict, question by question, and what can be taken over from the frame. */
export function VerdictOnFrame({ verdict, scenario, contender, exposure, change }: Props) {
  const own = scenario.contenders[contender]?.exposures[exposure];
  const sub = Number(verdict.sub_s.toPrecision(3));
  const sky = verdict.sky?.toward_target_v_mag;
  const keep = () =>
    change((s) => {
      const e = s.contenders[contender]?.exposures[exposure];
      if (e) e.test_frame = verdict.test_frame;
    });
  return (
    <section aria-label="Verdict on the frame" className="rounded-xl bg-surface px-4 py-3" data-testid="frame-verdict">
      <div className="flex flex-wrap items-center justify-between gap-2">
        <h3 className="text-[1.05rem] font-semibold" data-testid="frame-headline">
          {verdict.headline}
        </h3>
        <div className="flex flex-wrap gap-2">
          <Button
            look="lit"
            disabled={own?.sub_s === sub}
            data-testid="frame-use-sub"
            onClick={() =>
              change((s) => {
                const e = s.contenders[contender]?.exposures[exposure];
                if (e) e.sub_s = sub;
              })
            }
          >
            {own?.sub_s === sub ? `${seconds(sub)} are in use` : `Use subs of ${seconds(sub)}`}
          </Button>
          {sky != null && (
            <Button data-testid="frame-take-sky" onClick={() => change((s) => measuredThere(s.sky, sky))}>
              Take {mag(sky)} mag/″² as the sky there
            </Button>
          )}
          <Button
            look="quiet"
            disabled={JSON.stringify(own?.test_frame) === JSON.stringify(verdict.test_frame)}
            onClick={keep}
            title="The frame's background stays with this exposure and is shown under Sub"
          >
            Keep as its test frame
          </Button>
        </div>
      </div>
      <ul className="mt-2 flex flex-col divide-y divide-edge">
        {verdict.sentences.map((s) => {
          const { word, colour, Icon } = MARKS[s.standing];
          return (
            <li key={s.about} className="py-1.5" data-testid={`frame-${s.about}`}>
              <details>
                <summary className="grid cursor-pointer grid-cols-[1.3rem_5.2rem_1fr] gap-x-2 leading-6">
                  <Icon size={16} className={`mt-1 ${colour}`} aria-label={word} />
                  <span className="text-muted">{ABOUT[s.about] ?? s.about}</span>
                  <span className={s.standing === "wrong" ? "text-danger" : ""}>
                    <Words text={s.text} />
                  </span>
                </summary>
                <dl className="mt-1 ml-[7.5rem] grid grid-cols-[max-content_1fr] gap-x-4 text-[0.9rem]">
                  {s.figures.map((f) => (
                    <div key={f.name} className="contents">
                      <dt className="text-muted">{f.name}</dt>
                      <dd className="num">{f.value}</dd>
                    </div>
                  ))}
                </dl>
              </details>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
