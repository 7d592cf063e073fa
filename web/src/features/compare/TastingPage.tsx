import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link, useParams } from "react-router";

import type { Recording, Step } from "../../api/types";
import { editsOf, toLeft } from "../../audio/cutTimes";
import { formatTime } from "../../pictures/figures";
import { useRecipes } from "../recipes";
import { useRecording } from "../recordings";
import { usePassage, type PassageSpan } from "../live";
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

/** What can be tasted: the chain as it is, the recording as it came, and every recipe. */
function candidates(recording: Recording, recipes: readonly { name: string; steps: unknown }[]): Side[] {
  const own = recording.chain as Step[];
  return [
    ...(own.length > 0 ? [{ kind: "chain" as const, label: "The chain as it is set", steps: own }] : []),
    { kind: "chain", label: "As recorded", steps: [] },
    ...recipes.map((recipe) => ({ kind: "chain" as const, label: recipe.name, steps: recipe.steps as Step[] })),
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
  const offered = candidates(recording, recipes.data ?? []);
  const enough = chosen.length >= LEAST_TASTED && chosen.length <= MOST_TASTED;
  const begin = () => {
    const picked = offered.filter((side) => chosen.includes(side.label));
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
            {offered.map((side) => (
              <FormControlLabel
                key={side.label} label={side.label} sx={{ display: "flex", breakInside: "avoid" }}
                control={
                  <Checkbox
                    size="small" checked={chosen.includes(side.label)} disabled={!chosen.includes(side.label) && chosen.length >= MOST_TASTED}
                    onChange={(_, on) => setChosen(on ? [...chosen, side.label] : chosen.filter((label) => label !== side.label))}
                  />
                }
              />
            ))}
          </Box>
          <Box sx={{ display: "flex", alignItems: "center", gap: 4 }}>
            <Button variant="contained" disabled={!enough || !span} onClick={begin}>Taste {chosen.length}</Button>
            <FormControlLabel control={<Switch checked={blind} onChange={(_, on) => setBlind(on)} />} label="Blind: names are hidden, the order is drawn" slotProps={{ typography: { sx: { ml: 2 } } }} sx={{ ml: 0 }} />
          </Box>
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
