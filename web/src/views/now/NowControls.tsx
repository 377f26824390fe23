import { Bell, Flame, Volume2, VolumeX } from "lucide-react";
import type { NowAnswer } from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { Slider } from "@/parts/controls/Slider";

type OnOff = "on" | "off";
type Props = {
  answer: NowAnswer;
  choose: (campaign: string) => void;
  ember: OnOff;
  setEmber: (on: OnOff) => void;
  sound: OnOff;
  setSound: (on: OnOff) => void;
  dim: string;
  setDim: (percent: string) => void;
};

const other = (on: OnOff): OnOff => (on === "on" ? "off" : "on");

/** Whose night it is, how bright the page is, and how it calls. */
export function NowControls({ answer, choose, ember, setEmber, sound, setSound, dim, setDim }: Props) {
  const asks = "Notification" in window && Notification.permission === "default" && window.isSecureContext;
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
      <h1 className="mr-auto text-[1.3rem]">
        Now
        {answer.campaigns.length === 1 && <span className="ml-3 text-[1rem] text-muted">{answer.campaign?.title}</span>}
      </h1>
      {answer.campaigns.length > 1 && (
        <div className="w-64">
          <Select
            label="Campaign"
            hideLabel
            value={answer.campaign?.id ?? ""}
            options={answer.campaigns.map((c) => ({ value: c.id, label: c.title }))}
            onChange={choose}
          />
        </div>
      )}
      <div className="w-40">
        <Slider
          label="Brightness"
          value={Number(dim)}
          min={20}
          max={100}
          step={5}
          show={`${dim} %`}
          unit="%"
          onChange={(v) => setDim(String(Math.round(Math.min(100, Math.max(20, v)))))}
        />
      </div>
      <Button
        look={ember === "on" ? "plain" : "quiet"}
        className="min-h-[44px]"
        aria-pressed={ember === "on"}
        onClick={() => setEmber(other(ember))}
      >
        <Flame size={16} aria-hidden /> Ember by night
      </Button>
      <Button
        look={sound === "on" ? "plain" : "quiet"}
        className="min-h-[44px]"
        aria-pressed={sound === "on"}
        onClick={() => setSound(other(sound))}
      >
        {sound === "on" ? <Volume2 size={16} aria-hidden /> : <VolumeX size={16} aria-hidden />} Sound
      </Button>
      {asks && (
        <Button className="min-h-[44px]" onClick={() => void Notification.requestPermission()}>
          <Bell size={16} aria-hidden /> Let it call
        </Button>
      )}
    </div>
  );
}
