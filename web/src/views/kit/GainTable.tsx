import { Source } from "./Source";

type Props = {
  gains: Record<string, number>[];
  edit: (path: string, value: unknown) => void;
  sourceOf: (path: string) => string;
};

/** A camera's gain table, edited in place. */
export function GainTable({ gains, edit, sourceOf }: Props) {
  return (
    <div className="mt-4">
      <h3 className="font-medium">Gain table</h3>
      <table className="num mt-1 w-full text-right text-[0.9rem]">
        <thead className="text-muted">
          <tr>
            {["setting", "e-/ADU", "read noise e-", "full well e-"].map((h) => (
              <th key={h} scope="col" className="px-2 py-0.5 font-normal">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {gains.map((g, i) => (
            <tr key={i} className="border-t border-edge/60">
              {["setting", "e_per_adu", "read_noise_e", "full_well_e"].map((k) => (
                <td key={k} className="px-1 py-0.5">
                  <input
                    aria-label={`${k.replaceAll("_", " ")}, row ${i + 1}`}
                    defaultValue={g[k]}
                    className="w-full rounded border border-transparent bg-transparent px-1 text-right hover:border-edge focus:border-edge-strong focus:bg-well"
                    onBlur={(e) => {
                      const v = Number(e.target.value.replace(",", "."));
                      if (Number.isFinite(v) && v !== g[k])
                        edit(
                          "sensor.gains",
                          gains.map((x, j) => (j === i ? { ...x, [k]: v } : x)),
                        );
                    }}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <Source text={sourceOf("sensor.gains")} />
    </div>
  );
}
