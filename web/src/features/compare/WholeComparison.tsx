import Box from "@mui/material/Box";
import Button from "@mui/material/Button";

import type { Recording, Run } from "../../api/types";
import { editsOf } from "../../audio/cutTimes";
import { usePlayer } from "../../audio/usePlayer";
import { formatTime } from "../../pictures/figures";
import { useTargets } from "../targets";
import { Compared } from "./Compared";
import { useTimeSeries, useSpectrogramOf } from "./timeSeries";
import { SidePlayer } from "./SidePlayer";
import type { PassageSpan } from "../live";

interface Props {
  recording: Recording;
  run: Run;
  /** The stretch that is looked at; null is the whole. */
  span: PassageSpan | null;
  onSpan: (span: PassageSpan | null) => void;
}

/** A whole result beside what went into it; a stretch can be looked at closely. */
export function WholeComparison({ recording, run, span, onSpan }: Props) {
  const target = useTargets().data?.find((t) => t.id === recording.target) ?? null;
  const [a, b] = [useTimeSeries(run.id, "before", span), useTimeSeries(run.id, "after", span)];
  const spectrograms = [useSpectrogramOf(run.id, "before", span), useSpectrogramOf(run.id, "after", span)] as const;
  const louderDb = run.before?.integrated_lufs != null && run.after?.integrated_lufs != null ? run.after.integrated_lufs - run.before.integrated_lufs : null;
  const { player, state } = usePlayer({ url: `/api/runs/${run.id}/pair/`, channels: run.channels, hasAfter: true, louderDb, voiceGainDb: run.voice_gain_db, edits: editsOf(run), isEdited: false });
  if (!run.before || !run.after) return null;
  return (
    <Compared
      name={run.recording_name} before={run.before} after={run.after} words={run.differences} target={target}
      series={a.data && b.data ? [a.data, b.data] : null}
      spectrograms={spectrograms[0].data && spectrograms[1].data ? [spectrograms[0].data, spectrograms[1].data] : null}
      error={a.error ?? b.error ?? spectrograms[0].error ?? spectrograms[1].error}
      onZoom={(next) => { onSpan(next); player.seek(next.startS); }}
    >
      <Box sx={{ display: "flex", alignItems: "center", gap: 3, flexWrap: "wrap" }}>
        <SidePlayer player={player} state={state} difference={{ louderDb, voiceGainDb: run.voice_gain_db }} of={`of ${formatTime(run.duration_s)}`} keys />
        {span && (
          <Button size="small" variant="outlined" onClick={() => onSpan(null)}>
            Pictures of {formatTime(span.startS)} to {formatTime(span.endS)}: show the whole
          </Button>
        )}
      </Box>
    </Compared>
  );
}
