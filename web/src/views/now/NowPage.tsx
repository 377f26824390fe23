import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Ahead } from "./Ahead";
import { LastFrame } from "./LastFrame";
import { NowControls } from "./NowControls";
import { Progress } from "./Progress";
import { ago } from "./until";
import { useClock, useNow } from "./useNow";
import { useAlarm, useEmberByNight, useKept, useWakeLock } from "./useWatch";

/** So long before an act is due it is said, s. */
const WARNED_S = 120;

/** The page by the telescope: what should be running, what came in, is it good, what comes next. */
export function NowPage() {
  useTitle("Now");
  const [params, edit] = useParamsEdit();
  const asked = Number(params.get("at") ?? Number.NaN);
  const at = Number.isFinite(asked) ? asked : null;
  const { answer, heard_s, gone, error } = useNow(params.get("campaign") ?? "", at);
  const clock = useClock(at);
  const [ember, setEmber] = useKept<"on" | "off">("salt-lamp.now.ember", "on");
  const [sound, setSound] = useKept<"on" | "off">("salt-lamp.now.sound", "off");
  const [dim, setDim] = useKept<string>("salt-lamp.now.dim", "100");
  useEmberByNight(answer?.is_dark ?? false, ember === "on");
  useWakeLock(answer?.is_dark ?? false);
  const due = answer?.ahead.find((a) => a.at_s - clock < WARNED_S);
  useAlarm(answer?.alarm ? (answer.told ?? null) : due ? due.text : null, sound === "on");
  if (!answer) return <p className="p-6 text-muted">{error ? `Nothing was heard: ${error.message}` : "Listening…"}</p>;
  // What a browser keeps may be anything.
  const percent = Math.min(100, Math.max(20, Number(dim) || 100));
  const controls = { ember, setEmber, sound, setSound, dim: String(percent), setDim };
  return (
    <div
      className="mx-auto flex max-w-5xl flex-col gap-3 px-5 py-3"
      style={{ filter: percent === 100 ? undefined : `brightness(${percent / 100})` }}
      data-testid="now"
    >
      <NowControls answer={answer} choose={(id) => edit((p) => p.set("campaign", id))} {...controls} />
      {gone && heard_s !== undefined && (
        <p role="status" className="rounded-lg bg-raised px-3 py-2 text-warn" data-testid="gone">
          The link is gone. This is what was known {ago(clock - heard_s)}; times go on, frames do not.
        </p>
      )}
      <Ahead answer={answer} clock={clock} at={at} />
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-[minmax(0,1fr)]">
        <LastFrame answer={answer} clock={clock} />
        <Progress answer={answer} />
      </div>
    </div>
  );
}
