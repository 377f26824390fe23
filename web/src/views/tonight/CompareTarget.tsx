import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearchParams } from "react-router";
import { useCompare } from "@/api/mutations";
import { kitQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { useSites } from "@/parts/evening";
import { fail } from "@/parts/fail";

type Props = {
  name: string;
  date: string;
  quiet?: boolean;
  /** To the plan of that night instead of the bench. */
  night?: boolean;
};

/** One click from a target to a comparison of one's own light paths under that night's sky, or to the plan of that night. */
export function CompareTarget({ name, date, quiet, night }: Props) {
  const go = useNavigate();
  const [params] = useSearchParams();
  const compare = useCompare();
  const kit = useQuery(kitQuery);
  const sites = useSites();
  const site = params.get("site") ?? sites[0]?.id;
  const rig = params.get("rig") ?? kit.data?.find((r) => r.ready)?.id;
  const begin = async () => {
    try {
      const { id } = await compare({ rigs: rig ? [rig] : [], sets: [], on: name, date, ...(site && { site }) });
      void go(night ? `/night?bench=${id}&date=${date}${site ? `&site=${site}` : ""}` : `/bench/${id}`);
    } catch (e) {
      fail(e);
    }
  };
  return (
    <Button
      look={quiet ? "quiet" : night ? "plain" : "lit"}
      disabled={!rig}
      aria-label={quiet ? `Compare my light paths on ${name}` : undefined}
      onClick={() => void begin()}
    >
      {quiet ? "Compare" : night ? "Plan its night" : "Compare my light paths"}
    </Button>
  );
}
