import { X } from "lucide-react";
import { useState } from "react";
import type { Framing, Library } from "@/api/client";
import { Button, IconButton } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { contenderMark } from "@/theme/marks";
import type { FramingState } from "./useFraming";

const MOST = 6;

/** The rigs whose fields are drawn: any telescope with any camera; the first is the one that frames. */
export function FieldRigs({ framing, library }: { framing: FramingState; library: Library }) {
  const { rigs, fields, keys, setRigs } = framing;
  const [telescope, setTelescope] = useState("");
  const [camera, setCamera] = useState("");
  const key = `${telescope}~${camera}`;
  return (
    <>
      <ul className="mt-2 flex flex-col gap-1.5">
        {rigs.map((r, i) => (
          <li key={r.key} className="grid grid-cols-[1.6rem_minmax(0,1fr)_auto] items-center gap-x-2 text-[0.92rem]">
            <span
              className="num grid size-5 place-items-center rounded-full text-[0.8rem] font-semibold text-ground"
              style={{ background: contenderMark(i).colour }}
            >
              {contenderMark(i).letter}
            </span>
            <span className="min-w-0">
              <span className="block truncate">{r.name}</span>
              {fields[i] && <FieldWords field={fields[i]} />}
            </span>
            <span className="flex items-center">
              {i > 0 && (
                <Button look="quiet" onClick={() => setRigs([r.key, ...keys.filter((k) => k !== r.key)])}>
                  Frame with it
                </Button>
              )}
              <IconButton
                label={`Remove field ${contenderMark(i).letter}`}
                onClick={() => setRigs(keys.filter((k) => k !== r.key))}
              >
                <X size={15} aria-hidden />
              </IconButton>
            </span>
          </li>
        ))}
        {rigs.length === 0 && <li className="text-[0.9rem] text-muted">No rig is drawn. Choose one below.</li>}
      </ul>
      {rigs.length < MOST && (
        <div className="mt-2 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_auto] gap-2">
          <Select
            hideLabel
            label="A telescope to draw"
            value={telescope}
            placeholder="A telescope…"
            options={library.optics.map((o) => ({ value: o.id, label: o.name }))}
            onChange={setTelescope}
          />
          <Select
            hideLabel
            label="A camera to draw"
            value={camera}
            placeholder="with a camera…"
            options={library.cameras.map((c) => ({ value: c.id, label: c.sensor.name }))}
            onChange={setCamera}
          />
          <Button
            disabled={!telescope || !camera || keys.includes(key)}
            onClick={() => {
              setRigs([...keys, key]);
              setTelescope("");
              setCamera("");
            }}
          >
            Draw it
          </Button>
        </div>
      )}
    </>
  );
}

function FieldWords({ field: f }: { field: Framing }) {
  return (
    <>
      <span className="num block truncate text-[0.82rem] text-muted">
        {size(f.width_arcmin)} × {size(f.height_arcmin)} · {f.scale_arcsec.toFixed(2)}″/px
      </span>
      <span className="block text-[0.84rem] text-muted">{f.text}</span>
    </>
  );
}

const size = (arcmin: number) => (arcmin >= 60 ? `${(arcmin / 60).toFixed(2)}°` : `${arcmin.toFixed(1)}′`);
