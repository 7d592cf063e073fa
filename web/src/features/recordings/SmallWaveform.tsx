import { useTheme } from "@mui/material/styles";
import { useEffect, useRef } from "react";

import type { Overview, Recording } from "../../api/types";
import { columns, drawWaveform, sharpContext } from "../../pictures/waveform";
import { useRunOverview } from "../runs";
import { useSeen } from "../../pictures/useSeen";
import { useRecordingOverview } from "./api";

const WIDTH = 160;
const HEIGHT = 46;
const BINS = 512;

/** Before over after of a recording, fetched when its place comes near what is seen. */
export function SmallWaveform({ recording }: { recording: Recording }) {
  const place = useRef<HTMLDivElement>(null);
  const seen = useSeen(place);
  return <div ref={place} style={{ width: WIDTH, height: HEIGHT }}>{seen && <Fetched recording={recording} />}</div>;
}

function Fetched({ recording }: { recording: Recording }) {
  const before = useRecordingOverview(recording, BINS);
  const after = useRunOverview(recording.latest_run, BINS);
  return (
    <SmallMirror
      name={recording.name}
      durationS={recording.duration_s ?? 0}
      before={before.data}
      after={after.data}
    />
  );
}

interface Props {
  name: string;
  durationS: number;
  before: Overview | undefined;
  after: Overview | undefined;
}

function SmallMirror({ name, durationS, before, after }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { colours } = useTheme();
  useEffect(() => {
    const context = canvas.current && sharpContext(canvas.current, WIDTH, HEIGHT);
    if (!context) return;
    context.clearRect(0, 0, WIDTH, HEIGHT);
    const middle = HEIGHT / 2;
    const box = { left: 0, width: WIDTH, height: middle - 1 };
    if (before) {
      const shape = columns(before, 0, durationS, WIDTH / 2);
      drawWaveform(context, shape, { ...box, axis: middle - 1, direction: -1 }, colours.before, "dB");
    }
    if (after) {
      const shape = columns(after, 0, durationS, WIDTH / 2);
      drawWaveform(context, shape, { ...box, axis: middle + 1, direction: 1 }, colours.after, "dB");
    }
  }, [before, after, durationS, colours]);
  const label = `Waveform of ${name}${after ? ", before over after" : ""}`;
  return (
    <canvas ref={canvas} role="img" aria-label={label} style={{ width: WIDTH, height: HEIGHT }} />
  );
}
