import { zodResolver } from "@hookform/resolvers/zod";
import { useQuery } from "@tanstack/react-query";
import { useForm } from "react-hook-form";
import { toast } from "sonner";
import { useBeginCampaign } from "@/api/mutations";
import { scenarioQuery } from "@/api/queries";
import { ComparisonField, SiteField } from "@/parts/BeginFrom";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { useSites } from "@/parts/evening";
import { fail } from "@/parts/fail";
import { useParamsEdit } from "@/parts/useParams";
import { z } from "@/parts/zod";
import { contenderMark } from "@/theme/marks";

const schema = z.object({ from: z.string().min(1), row: z.number().int().min(0), site: z.string() });

/** Begins a campaign from a comparison, one of its paths and a site. */
export function Begin({ done }: { done: (id: string) => void }) {
  const [params] = useParamsEdit();
  const sites = useSites();
  const begin = useBeginCampaign();
  const { control, watch, setValue, handleSubmit, formState } = useForm({
    resolver: zodResolver(schema),
    defaultValues: { from: params.get("from") ?? "", row: Number(params.get("row") ?? 0) || 0, site: "" },
  });
  const chosen = useQuery(scenarioQuery(watch("from")));
  const paths = chosen.data?.scenario.contenders ?? [];
  const path = Math.min(watch("row"), Math.max(0, paths.length - 1));
  const submit = handleSubmit(async ({ site }) => {
    if (!chosen.data) return;
    try {
      const { scenario } = chosen.data;
      const made = await begin({ scenario, contender: path, site: site || (sites[0]?.id ?? "") });
      done(made.id);
      toast.success("Begun. Plan its first night from here.");
    } catch (e) {
      fail(e);
    }
  });
  return (
    <form onSubmit={(e) => void submit(e)} className="mt-3 flex flex-col gap-2 rounded-xl bg-surface p-3">
      <ComparisonField
        {...{ control }}
        name="from"
        label="Begin one from"
        after={() => setValue("row", 0)}
        testId="begin-from"
      />
      {paths.length > 0 && (
        <>
          <Select
            label="With the light path"
            value={String(path)}
            options={paths.map((c, i) => ({ value: String(i), label: `${contenderMark(i).letter} ${c.name}` }))}
            onChange={(v) => setValue("row", Number(v))}
            testId="begin-path"
          />
          <SiteField {...{ control }} name="site" label="From the site" testId="begin-site" />
        </>
      )}
      <Button look="lit" type="submit" disabled={!chosen.data || formState.isSubmitting}>
        Begin
      </Button>
    </form>
  );
}
