import { useState } from "react";
import { type FrameFolders, useCallOff, useChooseFolder, useDropFrame, useFolders, usePlay } from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { FileButton } from "@/parts/controls/FileButton";
import { fail } from "@/parts/fail";

const short = (path: string) => path.split(/[/\\]/).slice(-2).join("/");

/** Folders that are read once or watched, how far the reading is, and what could not be read. */
export function Folders({ opened }: { opened: (session: string) => void }) {
  const folders = useFolders();
  const [choose, callOff, drop, play] = [useChooseFolder(), useCallOff(), useDropFrame(), usePlay()];
  const [over, setOver] = useState(false);
  const take = async (files: Iterable<File>) => {
    // One after another: two frames at a time is all that the server takes.
    for (const file of files) {
      const taken = await drop(file).catch(fail);
      if (taken) opened(taken.session);
    }
  };
  const all = folders.data?.folders ?? [];
  return (
    <section
      aria-label="Folders"
      className={`mt-3 rounded-lg border border-dashed px-2.5 py-2 ${over ? "border-salt" : "border-edge"}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void take(e.dataTransfer.files);
      }}
    >
      <h2 className="text-[1.02rem] font-medium">Where frames come from</h2>
      {folders.data && all.length === 0 && (
        <p className="text-[0.93rem] text-muted">
          No folder was named at start. Start with <code>--frames FOLDER</code> and what lies beneath it can be read and
          watched. Pixels stay where they are.
        </p>
      )}
      <ul className="mt-1 flex flex-col gap-1.5">
        {all.map((f) => (
          <li key={f.folder}>
            <p className="truncate text-[0.93rem]" title={f.folder}>
              {short(f.folder)}
            </p>
            <div className="flex gap-1.5">
              <Button
                aria-pressed={f.watched}
                aria-label={`Watch ${short(f.folder)}`}
                className={f.watched ? "text-salt" : ""}
                onClick={() => choose({ folder: f.folder, what: f.watched ? "leave" : "watch" }).catch(fail)}
              >
                {f.watched ? "Watched" : "Watch"}
              </Button>
              {!f.watched && (
                <Button
                  look="quiet"
                  aria-label={`Read ${short(f.folder)} once`}
                  onClick={() => choose({ folder: f.folder, what: "read" }).catch(fail)}
                >
                  Read once
                </Button>
              )}
            </div>
          </li>
        ))}
      </ul>
      <div className="mt-2">
        <FileButton
          label="A frame for the log"
          accept=".fits,.fit,.fts,.fz,.tif,.tiff,.dng"
          take={(f) => void take([f])}
        >
          Take in a frame
        </FileButton>
        <p className="mt-1 text-[0.85rem] text-muted">or drop frames here</p>
      </div>
      {all.length > 0 && (
        <div className="mt-2">
          <Button
            disabled={folders.data?.reading.playing}
            onClick={() => play(undefined).catch(fail)}
            data-testid="play-a-night"
          >
            {folders.data?.reading.playing ? "A night is being played" : "Play a night"}
          </Button>
          <p className="mt-1 text-[0.85rem] text-muted">
            by a camera that does not exist, with cloud, drifting focus and a satellite
          </p>
        </div>
      )}
      {folders.data && <Progress reading={folders.data.reading} callOff={() => void callOff(undefined).catch(fail)} />}
    </section>
  );
}

/** How far the reading is, and what could not be read. */
function Progress({ reading, callOff }: { reading: FrameFolders["reading"]; callOff: () => void }) {
  const whole = reading.done + reading.waiting;
  return (
    <>
      {reading.waiting > 0 && (
        <div className="mt-2" role="status" data-testid="log-reading">
          <p className="text-[0.93rem]">
            {reading.done} of {whole} frames read
          </p>
          <div className="flex items-center gap-2">
            <progress className="grow accent-salt" value={reading.done} max={whole} aria-label="Frames read" />
            <Button look="quiet" onClick={callOff}>
              Stop
            </Button>
          </div>
        </div>
      )}
      {reading.troubles.length > 0 && (
        <details className="mt-2 text-[0.85rem]">
          <summary className="cursor-pointer text-warn">{reading.troubles.length} files were not read</summary>
          <ul>
            {reading.troubles.map((t) => (
              <li key={t.path} className="mt-1 break-words">
                {t.why}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
