import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";

interface Props {
  words: string[];
  onCorrect: () => void;
}

/** The proposed chain has looked at what came of it. */
export function CorrectionNote({ words, onCorrect }: Props) {
  return (
    <Alert
      severity="info" sx={{ my: 1 }}
      action={<Button size="small" variant="contained" sx={{ whiteSpace: "nowrap" }} onClick={onCorrect}>Correct the chain</Button>}
    >
      What was proposed went not quite far enough, or too far. {words.join(" ")}
    </Alert>
  );
}
