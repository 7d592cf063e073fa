import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link, useParams } from "react-router";

import type { Recording, Step } from "../../api/types";
import { editsOf, toLeft } from "../../audio/cutTimes";
import { formatTime } from "../../pictures/figures";
import { useRecipes } from "../recipes";
import { useRecording, useRecordings } from "../recordings";
import { usePassage, type PassageSpan } from "../live";
import { ClientVersionsDialog } from "./ClientVersionsDialog";
import type { Side } from "./sides";
import { TastingTable } from "./TastingTable";
import { LEAST_TASTED, MOST_TASTED, shuffled, useTastings } from "./tasting";

/** Several recipes on the same passage, equally loud, open or blind. */
export function TastingPage() {
  const { recordingId = "" } = useParams();
  const recording = useRecording(recordingId);
  if (recording.error) {
    return <Alert severity="error" sx={{ mt: 3 }}>{recording.error.message} <Link to="/recordings">All recordings</Link></Alert>;
  }
  if (!recording.data) return <Typography sx={{ pt: 4 }}>Opening …</Typography>;
  return <Tasting key={recordingId} recording={recording.data} />;
}

interface Candidate {
  key: string;
  side: Side;
}

/** What can be tasted: the chain as it is, the recording as it came, every recipe, and other takes. */
function candidates(recording: Recording, recipes: readonly { id: string; name: string; steps: unknown }[], takes: readonly Recording[]): Candidate[] {
  const own = recording.chain as Step[];
  return [
    ...(own.length > 0 ? [{ key: "chain", side: { kind: "chain" as const, label: "The chain as it is set", steps: own } }] : []),
    { key: "before", side: { kind: "chain", label: "As recorded", steps: [] } },
    ...recipes.map((recipe) => ({ key: recipe.id, side: { kind: "chain" as const, label: recipe.name, steps: recipe.steps as Step[] } })),
    ...takes.map((take) => ({ key: take.id, side: { kind: "recording" as const, of: take.id, start_s: take.proposed_passage?.start_s ?? 0, label: `Take: ${take.name}` } })),
  ];
}

function Tasting({ recording }: { recording: Recording }) {
  const { colours } = useTheme();
  const recipes = useRecipes();
  const earlier = useTastings(recording.id).data ?? [];
  const [passage] = usePassage(recording);
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const [blind, setBlind] = useState(true);
  const [served, setServed] = useState<{ sides: Side[]; span: PassageSpan; blind: boolean } | null>(null);
  const edits = editsOf(recording);
  const span = passage && { startS: toLeft(passage.startS, edits), endS: toLeft(passage.endS, edits) };
  const others = (useRecordings().data ?? []).filter((r) => r.id !== recording.id && r.state === "done");
  const [takes, setTakes] = useState<readonly string[]>([]);
  const [showing, setShowing] = useState(false);
  const offered = candidates(recording, recipes.data ?? [], others.filter((r) => takes.includes(r.id)));
  const picked = offered.filter(({ key }) => chosen.includes(key)).map(({ side }) => side);
  const enough = chosen.length >= LEAST_TASTED && chosen.length <= MOST_TASTED;
  const begin = () => {
    const order = blind ? shuffled(picked.length) : picked.map((_, i) => i);
    if (span) setServed({ sides: order.flatMap((i) => picked[i] ?? []), span, blind });
  };
  return (
    <Box sx={{ maxWidth: 1104 }}>
      <Typography variant="h1" sx={{ pt: 2 }}>Tasting: {recording.name}</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 4 }}>
        Several treatments of the passage{span && ` ${formatTime(span.startS)} to ${formatTime(span.endS)}`}, equally loud, switched at the same instant.{" "}
        <Link to={`/recordings/${recording.id}`}>Choose another passage on the workbench</Link>
      </Typography>
      {recipes.error && <Alert severity="error">{recipes.error.message}</Alert>}
      {served ? (
        <TastingTable recordingId={recording.id} {...served} onAgain={() => setServed(null)} />
      ) : (
        <Box sx={{ border: `1.5px solid ${colours.ink}`, borderRadius: "14px", backgroundColor: colours.card, p: 4 }}>
          <Typography variant="h3" component="h2">What to taste, {LEAST_TASTED} to {MOST_TASTED}</Typography>
          <Box sx={{ columns: 2, my: 2 }}>
            {offered.map(({ key, side }) => (
              <FormControlLabel
                key={key} label={side.label} sx={{ display: "flex", breakInside: "avoid" }}
                control={
                  <Checkbox
                    size="small" checked={chosen.includes(key)} disabled={!chosen.includes(key) && chosen.length >= MOST_TASTED}
                    onChange={(_, on) => setChosen(on ? [...chosen, key] : chosen.filter((one) => one !== key))}
                  />
                }
              />
            ))}
          </Box>
          <Box sx={{ display: "flex", alignItems: "center", gap: 4 }}>
            <Button variant="contained" disabled={!enough || !span} onClick={begin}>Taste {chosen.length}</Button>
            <Button variant="outlined" disabled={!enough || !span} onClick={() => setShowing(true)}>Page for a client</Button>
            {others.length > takes.length && (
              <TextField
                select size="small" label="Add a take" value="" sx={{ width: 190 }}
                onChange={(event) => {
                  setTakes([...takes, event.target.value]);
                  if (chosen.length < MOST_TASTED) setChosen([...chosen, event.target.value]);
                }}
              >
                {others.filter((r) => !takes.includes(r.id)).map((r) => <MenuItem key={r.id} value={r.id}>{r.name}</MenuItem>)}
              </TextField>
            )}
            <FormControlLabel control={<Switch checked={blind} onChange={(_, on) => setBlind(on)} />} label="Blind: names are hidden, the order is drawn" slotProps={{ typography: { sx: { ml: 2 } } }} sx={{ ml: 0 }} />
          </Box>
          {span && <ClientVersionsDialog open={showing} onClose={() => setShowing(false)} recording={recording} span={span} sides={picked} />}
          {!span && <Typography sx={{ mt: 2 }}>There is no passage yet: choose one on the workbench.</Typography>}
        </Box>
      )}
      {!served && earlier.length > 0 && (
        <Box sx={{ mt: 6 }}>
          <Typography variant="h3" component="h2">Earlier tastings</Typography>
          {earlier.map((one) => (
            <Typography key={one.id} variant="body2" sx={{ py: 1.5, borderTop: `1px solid ${colours.rule}` }}>
              {new Date(one.created_at).toLocaleString()}, {one.blind ? "blind" : "open"}: {one.entries.map((e, i) => `${i + 1}. ${e.label}${e.note ? ` (${e.note})` : ""}`).join(", ")}
            </Typography>
          ))}
        </Box>
      )}
    </Box>
  );
}
