import { zodResolver } from "@hookform/resolvers/zod";
import { useQuery } from "@tanstack/react-query";
import { Controller, useForm } from "react-hook-form";
import type { Scenario } from "@/api/client";
import { scenarioQuery } from "@/api/queries";
import { useBeginTrial } from "@/api/trials";
import { ComparisonField, SiteField } from "@/parts/BeginFrom";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { useSites } from "@/parts/evening";
import { fail } from "@/parts/fail";
import { useParamsEdit } from "@/parts/useParams";
import { z } from "@/parts/zod";
import { contenderMark } from "@/theme/marks";
import { JUDGED, TREATMENTS } from "./words";

const schema = z.object({
  from: z.string().min(1),
  first: z.string(),
  second: z.string(),
  treatment: z.enum(["filter", "gain", "sub", "rig"]),
  judged: z.enum(["patch_snr", "line_signal", "background", "star_halo", "star_size", "faintest_star"]),
  site: z.string(),
});

/** Every exposure of every light path of a comparison, as a thing that can be compared. */
const kindsOf = (s: Scenario) =>
  s.contenders.flatMap((c, path) =>
    c.exposures.map((e, exposure) => ({
      value: `${path} ${exposure}`,
      label: `${contenderMark(path).letter} ${c.exposures.length > 1 || !c.name ? (e.filter?.name ?? "no filter") : c.name}`,
    })),
  );

const kindOf = (value: string) => {
  const [path = 0, exposure = 0] = value.split(" ").map(Number);
  return { path, exposure };
};

/** Begins a trial from a comparison: which two, what differs, and by what they are judged. */
export function BeginTrial({ done }: { done: (id: string) => void }) {
  const [params] = useParamsEdit();
  const sites = useSites();
  const begin = useBeginTrial();
  const { control, watch, handleSubmit, setValue, formState } = useForm({
    resolver: zodResolver(schema),
    defaultValues: {
      from: params.get("from") ?? "",
      first: "",
      second: "",
      treatment: "filter" as const,
      judged: "patch_snr" as const,
      site: "",
    },
  });
  const chosen = useQuery(scenarioQuery(watch("from")));
  const kinds = chosen.data ? kindsOf(chosen.data.scenario) : [];
  const first = watch("first") || (kinds[0]?.value ?? "");
  // Another light path's before the same one's: filters of one path are for lines of their own.
  const elsewhere =
    kinds.find((k) => kindOf(k.value).path !== kindOf(first).path) ?? kinds.find((k) => k.value !== first);
  const second = watch("second") || (elsewhere?.value ?? "");
  const submit = handleSubmit(async ({ treatment, judged, site }) => {
    if (!chosen.data) return;
    try {
      const made = await begin({
        scenario: chosen.data.scenario,
        kinds: [first, second].map(kindOf),
        treatment,
        judged,
        site: site || (sites[0]?.id ?? ""),
      });
      done(made.id);
    } catch (e) {
      fail(e);
    }
  });
  return (
    <form onSubmit={(e) => void submit(e)} className="mt-3 flex flex-col gap-2 rounded-xl bg-surface p-3">
      <ComparisonField
        {...{ control }}
        name="from"
        label="New trial from"
        after={() => {
          setValue("first", "");
          setValue("second", "");
        }}
        testId="trial-from"
      />
      {kinds.length > 1 && (
        <>
          <Select label="A" value={first} options={kinds} onChange={(v) => setValue("first", v)} testId="trial-a" />
          <Select
            label="B, held against it"
            value={second}
            options={kinds.filter((k) => k.value !== first)}
            onChange={(v) => setValue("second", v)}
            testId="trial-b"
          />
          <Controller
            name="treatment"
            control={control}
            render={({ field }) => (
              <Select label="What differs" value={field.value} options={TREATMENTS} onChange={field.onChange} />
            )}
          />
          <Controller
            name="judged"
            control={control}
            render={({ field }) => (
              <Select
                label="Judged by"
                value={field.value}
                options={JUDGED}
                onChange={field.onChange}
                testId="trial-judged"
              />
            )}
          />
          <SiteField {...{ control }} name="site" label="From the site" />
        </>
      )}
      {chosen.data && kinds.length < 2 && (
        <p className="text-[0.9rem] text-muted">This comparison has one exposure: add what it is to be held against.</p>
      )}
      <Button look="lit" type="submit" disabled={kinds.length < 2 || formState.isSubmitting}>
        Design it
      </Button>
    </form>
  );
}
