import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link as RouterLink, useParams } from "react-router";

import type { Recording, Run } from "../../api/types";
import { editsOf, toLeft } from "../../audio/cutTimes";
import { DownloadIcon } from "../../pictures/icons";
import { useRecipes, useStepTypes } from "../recipes";
import { useRecording, useRecordings } from "../recordings";
import { usePassage, type PassageSpan } from "../live";
import { useRuns } from "../runs";
import { ClientVersionsDialog } from "./ClientVersionsDialog";
import { PassageComparison } from "./PassageComparison";
import { SideChoice, sideOptions } from "./SideChoice";
import { clientPage, clientPageHolds } from "./clientPage";
import { WholeComparison } from "./WholeComparison";

/** Two sides beside each other: before and the last result, or any two. */
export function ComparePage() {
  const { recordingId = "" } = useParams();
  const recording = useRecording(recordingId);
  const runs = useRuns(recordingId);
  const error = runs.error ?? recording.error;
  if (error) return <Told title="This cannot be compared" words={error.message} recordingId={recordingId} />;
  if (!runs.data || !recording.data) return <Typography sx={{ pt: 4 }}>Opening …</Typography>;
  const done = runs.data.filter((r) => r.state === "done" && r.before && r.after);
  if (done.length === 0 && recording.data.chain.length === 0) {
    return <Told title="Nothing to compare yet" words="Build a chain first; then before and after stand side by side here." recordingId={recordingId} />;
  }
  return <Comparison key={recordingId} recording={recording.data} runs={done} />;
}

function Told({ title, words, recordingId }: { title: string; words: string; recordingId: string }) {
  return (
    <Box sx={{ pt: 2 }}>
      <Typography variant="h1">{title}</Typography>
      <Typography sx={{ mt: 3 }}>{words} <Link component={RouterLink} to={`/recordings/${recordingId}`}>Go to the workbench</Link></Typography>
    </Box>
  );
}

function Comparison({ recording, runs }: { recording: Recording; runs: Run[] }) {
  const { colours } = useTheme();
  const types = useStepTypes().data ?? [];
  const recipes = useRecipes().data ?? [];
  const everything = useRecordings().data ?? [];
  const others = everything.filter((r) => r.id !== recording.id && r.state === "done");
  const options = sideOptions({ recording, types, runs, recipes, others });
  // The chain's own result before those of batches.
  const usual = runs.find((r) => r.batch === null) ?? runs[0];
  const [chosen, setChosen] = useState<readonly [string, string]>(() => ["before", usual ? `run-${usual.id}` : `tap-${recording.chain.length - 1}`]);
  const side = (key: string) => options.find((o) => o.key === key)?.side ?? null;
  const [a, b] = [side(chosen[0]), side(chosen[1])];
  const run = a?.kind === "before" && b?.kind === "run" ? (runs.find((r) => r.id === b.of) ?? null) : null;
  const [passage] = usePassage(recording);
  const [showing, setShowing] = useState(false);
  const edits = editsOf(recording);
  const passageSpan: PassageSpan | null = passage && { startS: toLeft(passage.startS, edits), endS: toLeft(passage.endS, edits) };
  // A stretch of one result says nothing of another.
  const [looking, setLooking] = useState<{ run: string; span: PassageSpan } | null>(null);
  const span = looking && looking.run === run?.id ? looking.span : null;
  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, pt: 2, pb: 3, flexWrap: "wrap" }}>
        <Box sx={{ flex: "1 1 240px", minWidth: 0 }}>
          <Typography variant="h1" noWrap title={recording.name}>{recording.name}</Typography>
          <Typography variant="body2" color="textSecondary">
            Two sides compared. <Link component={RouterLink} to={`/recordings/${recording.id}/tasting`}>Taste several recipes</Link>
          </Typography>
        </Box>
        <SideChoice label="Before" value={a ? chosen[0] : ""} options={options} colour={colours.beforeText} onChange={(key) => setChosen([key, chosen[1]])} />
        <SideChoice label="After" value={b ? chosen[1] : ""} options={options} colour={colours.afterText} onChange={(key) => setChosen([chosen[0], key])} />
        {!run && a && b && passageSpan && (
          <Button variant="outlined" startIcon={<DownloadIcon size={16} />} title="Both sides of the passage, under names to choose" onClick={() => setShowing(true)}>
            Page for a client
          </Button>
        )}
        {run && (
          <Button variant="outlined" startIcon={<DownloadIcon size={16} />} href={clientPage(run, span)} title={clientPageHolds(run, span)} download>
            Page for a client
          </Button>
        )}
      </Box>
      {!run && a && b && passageSpan && <ClientVersionsDialog open={showing} onClose={() => setShowing(false)} recording={recording} span={passageSpan} sides={[a, b]} />}
      {run ? <WholeComparison key={run.id} recording={recording} run={run} span={span} onSpan={(next) => setLooking(next && { run: run.id, span: next })} /> : a && b && <PassageComparison recording={recording} a={a} b={b} />}
      {!a || !b ? <Typography role="alert">A side that was chosen is not there any more; choose another.</Typography> : null}
    </Box>
  );
}
