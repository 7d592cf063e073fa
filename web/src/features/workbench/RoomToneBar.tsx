import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState, type ReactNode } from "react";

import type { Recording, RoomTone } from "../../api/types";
import { formatDb, formatTime } from "../../pictures/figures";
import { CheckIcon } from "../../pictures/icons";
import { useRoomTones } from "../rooms";
import { useChooseRoomTone, useMarkRoomTone } from "./api";
import type { TimeSpan } from "./mirrorView";
import { foundHere, isHeardUnderWords, isLearnedFrom, learnedFrom } from "./foundRoomTone";
import { RoomNameField } from "./RoomNameField";

interface Props {
  recording: Recording;
  onSelect: (span: TimeSpan | null) => void;
  /** Play a stretch of the recording as it came. */
  onListen: (span: TimeSpan) => void;
}

/** Shorter ones are handled together. */
const KEPT_S = 0.2;
/** Longest, and least moving, that makes a good sample. */
const LONG_S = 1;
const STEADY_DB = 2;

/** Which room tone is used; what was found here, ranked, and those kept, to choose from. */
export function RoomToneChoice({ recording, onSelect, onListen }: Props) {
  const { colours } = useTheme();
  const tones = useRoomTones();
  const choose = useChooseRoomTone(recording.id);
  const mark = useMarkRoomTone(recording.id);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [name, setName] = useState("");
  const tone = recording.room_tone;
  const found = foundHere(recording);
  const first = found[0];
  const toKeep = found.filter((f) => lengthS([f]) >= KEPT_S);
  const gaps = found.filter((f) => lengthS([f]) < KEPT_S);
  const used = `Room tone: ${tone?.name ?? whereFound(learnedFrom(recording))}`;
  const close = () => setAnchor(null);
  const error = choose.error ?? mark.error;
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="dialog" title={error?.message ?? used}
        onClick={(event) => setAnchor(event.currentTarget)}
        startIcon={<Box sx={{ width: 9, height: 9, backgroundColor: colours.room, borderRadius: "2px" }} />}
        sx={{ fontWeight: 500, maxWidth: 175, px: 1, justifyContent: "start", whiteSpace: "nowrap", overflow: "hidden", color: error ? colours.fail : colours.ink }}
      >
        <span style={{ overflow: "hidden", textOverflow: "ellipsis" }}>{error ? error.message : used}</span>
      </Button>
      <Popover
        anchorEl={anchor} open={anchor !== null} onClose={close} anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "Room tone", sx: { width: 620, p: 5, border: `1px solid ${colours.rule}`, borderRadius: "15px" } } }}
      >
        <Box sx={{ display: "flex", alignItems: "center", gap: 3, mb: 2 }}>
          <Typography variant="h3" component="h2" sx={{ flex: 1 }}>Quiet stretches found here</Typography>
          <RoomNameField value={name} onChange={setName} />
        </Box>
        {found.length === 0 && (
          <Typography variant="body2" sx={{ mb: 2 }}>
            {isHeardUnderWords(recording) ? "None: noise is learned from under the words. " : "None. "}
            Drag over a stretch in which nobody speaks, or use one kept before.
          </Typography>
        )}
        {toKeep.map((f, i) => (
          <Line
            key={f.startS} chosen={!tone && isLearnedFrom(f, i)}
            words={
              <>
                <b>{formatTime(f.startS)} to {formatTime(f.endS)}</b>: {formatDb(f.level_dbfs)} dBFS; {reasons(f.endS - f.startS, f.level_spread_db, f.above_quietest_db)}
              </>
            }
          >
            <Button size="small" variant="text" aria-label={`Listen to ${formatTime(f.startS)}`} onClick={() => onListen(f)}>Listen</Button>
            <Button
              size="small" variant="outlined" aria-label={`Keep ${formatTime(f.startS)} as room tone`} disabled={mark.isPending}
              onClick={() => mark.mutate({ start_s: f.startS, end_s: f.endS, name }, { onSuccess: close })}
            >
              Keep
            </Button>
          </Line>
        ))}
        {gaps.length > 0 && (
          <Line
            chosen={!tone}
            words={<><b>{gaps.length === 1 ? "A gap" : `${gaps.length} gaps`} between words</b>: {lengthS(gaps).toFixed(1)} s in all, too short to keep</>}
          />
        )}
        <Box sx={{ display: "flex", gap: 2, my: 2 }}>
          <Button
            size="small" variant="text"
            onClick={() => {
              close();
              onSelect({ startS: first?.startS ?? 0, endS: first?.endS ?? Math.min(1, recording.duration_s ?? 1) });
            }}
          >
            Mark another stretch …
          </Button>
          {tone && (
            <Button size="small" variant="text" onClick={() => choose.mutate(null, { onSuccess: close })}>
              Find it by itself
            </Button>
          )}
        </Box>
        {(tones.data?.length ?? 0) > 0 && <Typography variant="h3" component="h2" sx={{ mt: 3, mb: 1 }}>Kept before</Typography>}
        {tones.data?.map((t) => (
          <Line
            key={t.id} chosen={t.id === tone?.id}
            words={<><b>{t.name}</b>, from {comesFrom(t)}, {new Date(t.created_at).toLocaleDateString()}, {formatDb(t.level_dbfs)} dBFS</>}
          >
            {t.id !== tone?.id && (
              <Button size="small" variant="outlined" aria-label={`Use ${t.name}, from ${comesFrom(t)}`} onClick={() => choose.mutate(t.id, { onSuccess: close })}>
                Use
              </Button>
            )}
          </Line>
        ))}
      </Popover>
    </>
  );
}

const comesFrom = (tone: RoomTone): string => tone.recording_name ?? "a recording that is gone";

function whereFound(used: readonly TimeSpan[]): string {
  const [first] = used;
  if (!first) return "none found";
  return used.length === 1 ? `at ${formatTime(first.startS)}` : `in ${used.length} places`;
}

const lengthS = (spans: readonly TimeSpan[]): number => spans.reduce((sum, { startS, endS }) => sum + endS - startS, 0);

/** What speaks for a stretch, and against it. */
export function reasons(lengthS: number, movesDb: number, aboveDb: number): string {
  return [
    `${lengthS >= LONG_S ? "long enough" : "short"} (${lengthS.toFixed(1)} s)`,
    `${movesDb <= STEADY_DB ? "steady" : "not steady"} (moves by ${formatDb(movesDb)} dB)`,
    aboveDb < 1 ? "as quiet as it gets here" : `${formatDb(aboveDb)} dB over the quietest`,
  ].join(", ");
}

function Line({ words, chosen, children }: { words: ReactNode; chosen: boolean; children?: ReactNode }) {
  const { colours } = useTheme();
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 2, py: 1, borderTop: `1px solid ${colours.rule}` }}>
      <Typography variant="body2" sx={{ flex: 1 }}>
        {words}
        {chosen && <span style={{ color: colours.pass, whiteSpace: "nowrap" }}> <CheckIcon size={13} /> in use</span>}
      </Typography>
      {children}
    </Box>
  );
}
