import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearchParams } from "react-router";
import { toast } from "sonner";
import { answerOf, api } from "@/api/client";
import { useCompare } from "@/api/mutations";
import { kitQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { useSites } from "@/parts/evening";

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
      const { emission, catalogued } = await answerOf(
        api.GET("/api/v1/targets/{name}", { params: { path: { name } } }),
      );
      const body = { rigs: rig ? [rig] : [], sets: [], target: emission ?? catalogued, date, ...(site && { site }) };
      const { id } = await compare(body);
      void go(night ? `/night?bench=${id}&date=${date}${site ? `&site=${site}` : ""}` : `/bench/${id}`);
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
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
