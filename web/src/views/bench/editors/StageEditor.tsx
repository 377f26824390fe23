import type { Contender } from "@/api/client";
import { SubEditor } from "./exposures";
import { FilterEditor, OpticsEditor, SensorEditor } from "./gear";
import type { Props } from "./shared";
import { AirEditor, TargetEditor } from "./sky";

/** The editor of one stage of a light path, in its place. */
export function StageEditor(p: Props) {
  const contender = p.scenario.contenders[p.index];
  if (!contender) return null;
  const props = {
    ...p,
    contender,
    edit: (f: (c: Contender) => void) => p.change((s) => f(s.contenders[p.index] as Contender)),
  };
  switch (p.stage) {
    case "target":
      return <TargetEditor {...props} />;
    case "air":
      return <AirEditor {...props} />;
    case "optics":
      return <OpticsEditor {...props} />;
    case "filter":
      return <FilterEditor {...props} />;
    case "sensor":
      return <SensorEditor {...props} />;
    case "sub":
      return <SubEditor {...props} />;
  }
}
