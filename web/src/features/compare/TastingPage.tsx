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
import { Link, useParams, useSearchParams } from "react-router";

import type { Recipe, Recording, Step } from "../../api/types";
import { editsOf, toLeft } from "../../audio/cutTimes";
import { formatTime } from "../../pictures/figures";
import { STARTER_GROUP, useRecipes } from "../recipes";
import { useProposal, useRecording, useRecordings } from "../recordings";
import { usePassage, type PassageSpan } from "../live";
import { ClientVersionsDialog } from "./ClientVersionsDialog";
import type { Side } from "./sides";
import { TastingTable } from "./TastingTable";
import { LEAST_TASTED, MOST_TASTED, shuffled, useTastings } from "./tasting";

/** Key of the candidate, and the word in the address. */
const PROPOSED = "proposed";

/** Several treatments of the same passage, equally loud, open or blind. */
export function TastingPage() {
  const { recordingId = "" } = useParams();
  const [query] = useSearchParams();
  const atOnce = query.has(PROPOSED);
  const recording = useRecording(recordingId);
  const recipes = useRecipes();
  const proposal = useProposal(recording.data, true);
  const fault = recording.error ?? recipes.error;
  if (fault) {
    return <Alert severity="error" sx={{ mt: 3 }}>{fault.message} <Link to="/recordings">All recordings</Link></Alert>;
  }
  if (!recording.data || !recipes.data || (atOnce && proposal.isLoading)) return <Typography sx={{ pt: 4 }}>Opening …</Typography>;
  const proposed = (proposal.data?.steps ?? []).map(({ step }) => step as Step);
  return <Tasting key={recordingId} recording={recording.data} recipes={recipes.data} proposed={proposed} atOnce={atOnce && proposed.length > 0} />;
}

interface Candidate {
  key: string;
  side: Side;
}

/** What can be tasted: what is proposed, the chain as it is, the recording as it came, every recipe, and other takes. */
function candidates(recording: Recording, proposed: Step[], recipes: readonly Recipe[], takes: readonly Recording[]): Candidate[] {
  const own = recording.chain as Step[];
  return [
    ...(proposed.length > 0 ? [{ key: PROPOSED, side: { kind: "chain" as const, label: "Made for this recording", steps: proposed } }] : []),
    ...(own.length > 0 ? [{ key: "chain", side: { kind: "chain" as const, label: "The chain as it is set", steps: own } }] : []),
    { key: "before", side: { kind: "chain", label: "As recorded", steps: [] } },
    ...recipes.map((recipe) => ({ key: recipe.id, side: { kind: "chain" as const, label: recipe.name, steps: recipe.steps as Step[] } })),
    ...takes.map((take) => ({ key: take.id, side: { kind: "recording" as const, of: take.id, start_s: take.proposed_passage?.start_s ?? 0, label: `Take: ${take.name}` } })),
  ];
}

/** The proposal and the recipes to start from, as many as fit. */
function besideTheProposal(recipes: readonly Recipe[]): string[] {
  return [PROPOSED, ...recipes.filter((recipe) => recipe.group === STARTER_GROUP).map(({ id }) => id)].slice(0, MOST_TASTED);
}

interface Props {
  recording: Recording;
  recipes: readonly Recipe[];
  proposed: Step[];
  /** The proposal is served beside the recipes to start from, without being asked what to taste. */
  atOnce: boolean;
}

interface Served {
  sides: Side[];
  span: PassageSpan;
  blind: boolean;
}

const serve = (sides: Side[], span: PassageSpan, blind: boolean): Served => ({
  sides: (blind ? shuffled(sides.length) : sides.map((_, i) => i)).flatMap((i) => sides[i] ?? []), span, blind,
});

function Tasting({ recording, recipes, proposed, atOnce }: Props) {
  const { colours } = useTheme();
  const earlier = useTastings(recording.id).data ?? [];
  const [passage] = usePassage(recording);
  const edits = editsOf(recording);
  const span = passage && { startS: toLeft(passage.startS, edits), endS: toLeft(passage.endS, edits) };
  const [chosen, setChosen] = useState<readonly string[]>(() => (atOnce ? besideTheProposal(recipes) : []));
  const picksOf = (all: readonly Candidate[]) => all.filter(({ key }) => chosen.includes(key)).map(({ side }) => side);
  const [blind, setBlind] = useState(true);
  const [served, setServed] = useState<Served | null>(() =>
    atOnce && span ? serve(picksOf(candidates(recording, proposed, recipes, [])), span, true) : null,
  );
  const others = (useRecordings().data ?? []).filter((r) => r.id !== recording.id && r.state === "done");
  const [takes, setTakes] = useState<readonly string[]>([]);
  const [showing, setShowing] = useState(false);
  const offered = candidates(recording, proposed, recipes, others.filter((r) => takes.includes(r.id)));
  const picked = picksOf(offered);
  const enough = chosen.length >= LEAST_TASTED && chosen.length <= MOST_TASTED;
  const begin = () => {
    if (span) setServed(serve(picked, span, blind));
  };
  return (
    <Box sx={{ maxWidth: 1104 }}>
      <Typography variant="h1" sx={{ pt: 2 }}>Tasting: {recording.name}</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 4 }}>
        Several treatments of the passage{span && ` ${formatTime(span.startS)} to ${formatTime(span.endS)}`}, equally loud, switched at the same instant.{" "}
        <Link to={`/recordings/${recording.id}`}>Choose another passage on the workbench</Link>
      </Typography>
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
