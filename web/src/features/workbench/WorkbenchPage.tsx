import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { Link, useParams } from "react-router";

import type { Recording } from "../../api/types";
import { useRecording } from "../recordings";
import { BenchChain } from "./bench/BenchChain";
import { BenchContext } from "./bench/BenchContext";
import { BenchDialogs } from "./bench/BenchDialogs";
import { BenchFaults } from "./bench/BenchFaults";
import { BenchHead } from "./bench/BenchHead";
import { BenchPicture } from "./bench/BenchPicture";
import { useBench } from "./bench/useBench";
import { MeasuringPage } from "./MeasuringPage";

/** One recording on the workbench. */
export function WorkbenchPage() {
  const { recordingId = "" } = useParams();
  const recording = useRecording(recordingId);
  if (recording.error) {
    return (
      <Box sx={{ pt: 2 }}>
        <Typography variant="h1">This recording cannot be opened</Typography>
        <Alert severity="error" sx={{ mt: 3 }}>
          {recording.error.message} <Link to="/recordings">All recordings</Link>
        </Alert>
      </Box>
    );
  }
  const data = recording.data;
  if (!data) return <Typography sx={{ pt: 4 }}>Opening the recording …</Typography>;
  // After a cut the old figures stand until the new ones are there.
  if (data.state === "failed" || !data.measures) return <MeasuringPage recording={data} />;
  return <Workbench key={data.id} recording={data} />;
}

function Workbench({ recording }: { recording: Recording }) {
  const bench = useBench(recording);
  return (
    <BenchContext value={bench}>
      <Box>
        <BenchHead />
        <BenchFaults />
        <BenchPicture />
        <BenchChain />
        <BenchDialogs />
      </Box>
    </BenchContext>
  );
}
