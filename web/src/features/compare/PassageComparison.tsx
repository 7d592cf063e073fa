import Alert from "@mui/material/Alert";
import Typography from "@mui/material/Typography";
import { useEffect, useMemo } from "react";

import type { Recording } from "../../api/types";
import { editsOf, noEdits, toLeft } from "../../audio/cutTimes";
import { removedByDb } from "../../audio/playback";
import { useLoop } from "../../audio/usePlayer";
import { formatTime } from "../../pictures/figures";
import { useTargets } from "../targets";
import { usePassage, type PassageSpan } from "../live";
import { Compared } from "./Compared";
import { removedDbfs, useSides, type Side } from "./sides";
import { SidePlayer } from "./SidePlayer";

/** Any two sides over the passage, which loops. */
export function PassageComparison({ recording, a, b }: { recording: Recording; a: Side; b: Side }) {
  const [passage] = usePassage(recording);
  const edits = editsOf(recording);
  const startS = passage ? toLeft(passage.startS, edits) : 0;
  const endS = passage ? toLeft(passage.endS, edits) : Math.min(10, recording.measures?.duration_s ?? 0);
  const span: PassageSpan = useMemo(() => ({ startS, endS }), [startS, endS]);
  const target = useTargets().data?.find((t) => t.id === recording.target) ?? null;
  const sides = useSides(recording.id, span, [a, b]);
  const { loop, state } = useLoop();
  const [one, other] = [sides.data?.heard[0], sides.data?.heard[1]];
  const louderDb =
    one?.measures?.integrated_lufs != null && other?.measures?.integrated_lufs != null ? other.measures.integrated_lufs - one.measures.integrated_lufs : null;
  const voiceGainDb = other?.voiceGainDb ?? null;
  const { data } = sides;
  useEffect(() => {
    if (!data || !one || !other || one.error !== null || other.error !== null) return;
    const length = Math.min(one.channels[0]?.length ?? 0, other.channels[0]?.length ?? 0);
    const cut = (channels: Float32Array<ArrayBuffer>[]) => channels.map((c) => c.slice(0, length));
    loop.take({ sampleRateHz: data.sampleRateHz, startS: data.startS, before: cut(one.channels), after: cut(other.channels), louderDb, voiceGainDb }, noEdits);
  }, [loop, data, one, other, louderDb, voiceGainDb]);
  if (sides.error) return <Alert severity="error">{sides.error.message}</Alert>;
  if (!one || !other) return <Typography role="status" sx={{ py: 4 }}>Rendering both sides of the passage …</Typography>;
  const faults = [one, other].flatMap((side, i) => (side.error === null ? [] : [`${[a, b][i]?.label ?? ""}: ${side.error}`]));
  if (faults.length > 0 || !one.measures || !other.measures) return <Alert severity="error">{faults.join(" ")}</Alert>;
  const notes = [one, other].flatMap((side, i) => (side.note === null ? [] : [`${[a, b][i]?.label ?? ""}: ${side.note}`]));
  return (
    <Compared
      name={`${recording.name}, ${a.label} and ${b.label}`} before={one.measures} after={other.measures} words={other.differences} target={target}
      series={one.timeSeries && other.timeSeries ? [one.timeSeries, other.timeSeries] : null} spectrograms={null} error={null} onZoom={null}
    >
      <SidePlayer
        player={loop} state={state} difference={{ louderDb, voiceGainDb }} of={`in the passage ${formatTime(span.startS)} to ${formatTime(span.endS)}`}
        removedDbfs={state.side === "removed" ? removedDbfs(one, other, removedByDb({ louderDb, voiceGainDb })) : null} keys
      />
      {notes.map((note) => <Alert key={note} severity="info" sx={{ mt: 2 }}>{note}</Alert>)}
    </Compared>
  );
}
