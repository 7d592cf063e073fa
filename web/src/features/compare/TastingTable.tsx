import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useState, useSyncExternalStore } from "react";
import { useNavigate } from "react-router";

import { SideLoop } from "../../audio/sideLoop";
import { formatDb, shownClearance } from "../../pictures/figures";
import { CheckIcon, PauseIcon, PlayIcon } from "../../pictures/icons";
import type { PassageSpan } from "../live";
import { useSides, type Side } from "./sides";
import { rankedAt, useKeepTasting } from "./tasting";

interface Props {
  recordingId: string;
  /** In the order they stand in. */
  sides: Side[];
  span: PassageSpan;
  blind: boolean;
  onAgain: () => void;
}

/** The treatments under numbers: switch, note, rank; then the names, and the best becomes the chain. */
export function TastingTable({ recordingId, sides, span, blind, onAgain }: Props) {
  const { colours } = useTheme();
  const navigate = useNavigate();
  const [ready, setReady] = useState(0);
  const answer = useSides(recordingId, span, sides, setReady);
  const [loop] = useState(() => new SideLoop());
  const state = useSyncExternalStore(loop.subscribe, loop.snapshot);
  const [notes, setNotes] = useState<readonly string[]>(sides.map(() => ""));
  const [ranking, setRanking] = useState<readonly number[]>([]);
  const keep = useKeepTasting(recordingId);
  const told = !blind || keep.isSuccess;
  const { data } = answer;
  useEffect(() => {
    if (data) loop.take(data.heard.map((h) => ({ channels: h.channels, lufs: h.measures?.integrated_lufs ?? null })), data.sampleRateHz);
  }, [loop, data]);
  useEffect(() => () => loop.close(), [loop]);
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input, textarea, [role=combobox], [role=listbox]") || event.ctrlKey || event.metaKey) return;
      const at = Number(event.key) - 1;
      if (at >= 0 && at < sides.length) loop.choose(at);
      else if (event.key === " " && !target.closest("button")) {
        event.preventDefault();
        loop.toggle();
      }
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, [loop, sides.length]);
  if (answer.error) return <Alert severity="error" action={<Button onClick={onAgain}>Back</Button>}>{answer.error.message}</Alert>;
  if (!data) {
    return (
      <Box sx={{ py: 6, maxWidth: 480 }}>
        <Typography role="status">Rendering {Math.min(ready + 1, sides.length)} of {sides.length} …</Typography>
        <LinearProgress variant="determinate" value={(100 * ready) / sides.length} aria-label="Tasting" sx={{ mt: 2, height: 8, borderRadius: "15px" }} />
      </Box>
    );
  }
  const complete = ranking.length === sides.length;
  const finish = () => {
    const entries = ranking.flatMap((at) => {
      const side = sides[at];
      return side ? [{ label: side.label, steps: side.kind === "chain" ? side.steps : null, note: notes[at] ?? "" }] : [];
    });
    keep.mutate({ start_s: span.startS, end_s: span.endS, blind, entries });
  };
  const makeChain = (at: number) => {
    const side = sides[at];
    if (side?.kind === "chain") void navigate(`/recordings/${recordingId}`, { state: { chain: side.steps } });
  };
  return (
    <Box>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", mb: 3 }}>
        <Button variant="contained" aria-label={state.playing ? "Pause" : "Play"} onClick={() => loop.toggle()} sx={{ minWidth: 0, px: 3 }}>
          {state.playing ? <PauseIcon size={16} /> : <PlayIcon size={16} />}
        </Button>
        <Button size="small" variant={state.matched ? "contained" : "outlined"} aria-pressed={state.matched} disabled={blind && !told} onClick={() => loop.match(!state.matched)}>
          Match
        </Button>
        <Typography variant="body2" color="textSecondary">Keys 1 to {sides.length} switch at the same instant, Space plays.</Typography>
      </Box>
      {sides.map((side, at) => {
        const heard = data.heard[at];
        const place = ranking.indexOf(at);
        return (
          <Box key={at} component="section" aria-label={`Treatment ${at + 1}`} sx={{ display: "flex", gap: 3, alignItems: "center", py: 2, borderTop: `1px solid ${colours.rule}` }}>
            <Button
              variant="outlined" aria-pressed={state.heard === at} onClick={() => { loop.choose(at); void loop.play(); }} disabled={heard?.error != null}
              sx={{ width: 84, height: 56, fontSize: 24, fontFamily: "Fraunces Variable", ...(state.heard === at && { borderColor: colours.ink, borderWidth: 2 }) }}
              startIcon={state.heard === at ? <CheckIcon size={16} /> : undefined}
            >
              {at + 1}
            </Button>
            <Box sx={{ width: 260 }}>
              <Typography sx={{ fontWeight: 650 }}>{told ? side.label : "hidden"}</Typography>
              <Typography variant="caption" color="textSecondary" component="p">
                {heard?.error ?? (told ? `${formatDb(heard?.measures?.integrated_lufs)} LUFS, clearance ${formatDb(shownClearance(heard?.measures))} dB` : "")}
              </Typography>
              {told && heard?.note && <Typography variant="caption" component="p">{heard.note}</Typography>}
            </Box>
            <TextField
              size="small" label={`Note on ${at + 1}`} value={notes[at]} disabled={keep.isSuccess} sx={{ flex: 1 }}
              onChange={(event) => setNotes(notes.map((note, i) => (i === at ? event.target.value : note)))}
            />
            <TextField
              select size="small" label={`Place of ${at + 1}`} value={place < 0 ? "" : place} disabled={keep.isSuccess || heard?.error != null} sx={{ width: 120 }}
              onChange={(event) => setRanking(rankedAt(ranking, at, Number(event.target.value)))} slotProps={{ inputLabel: { shrink: true } }}
            >
              {Array.from({ length: Math.min(sides.length, ranking.length + (place < 0 ? 1 : 0)) }, (_, i) => <MenuItem key={i} value={i}>{i + 1}{i === 0 ? ", best" : ""}</MenuItem>)}
            </TextField>
            {told && side.kind === "chain" && <Button variant={place === 0 ? "contained" : "outlined"} size="small" onClick={() => makeChain(at)} aria-label={`Use it as the chain: ${side.label}`} sx={{ whiteSpace: "nowrap" }}>Use it as the chain</Button>}
          </Box>
        );
      })}
      {keep.error && <Alert severity="error">{keep.error.message}</Alert>}
      <Box sx={{ display: "flex", gap: 3, mt: 4, alignItems: "center" }}>
        {!keep.isSuccess && <Button variant="contained" disabled={!complete || keep.isPending} onClick={finish}>{blind ? "Keep the ranking and tell the names" : "Keep the ranking"}</Button>}
        <Button variant="outlined" onClick={onAgain}>Taste others</Button>
        {keep.isSuccess && <Typography role="status">Kept. Best liked: {sides[ranking[0] ?? 0]?.label}.</Typography>}
        {!complete && <Typography variant="body2" color="textSecondary">Give each a place to keep the ranking.</Typography>}
      </Box>
    </Box>
  );
}
