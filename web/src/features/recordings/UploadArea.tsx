import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";

import type { StartedUpload } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { moving, shareIn, type Upload } from "./uploads";

interface Props {
  uploads: Upload[];
  /** Files of which a part came in before. */
  unfinished: readonly StartedUpload[];
  over: boolean;
  onDismiss: (key: number) => void;
  onForget: (id: string) => void;
}

const megabytes = (bytes: number) => (bytes / 1e6).toFixed(1);

/** Where files land, and those on their way. The whole page takes drops; this says so. */
export function UploadArea({ uploads, unfinished, over, onDismiss, onForget }: Props) {
  const { colours } = useTheme();
  const coming = moving(uploads);
  const broken = unfinished.filter((u) => !coming.some((m) => m.name === u.name && m.sizeBytes === u.size_bytes));
  // In sight below a long list too.
  const speaks = over || coming.length > 0;
  return (
    <Box sx={{ mt: 5, ...(speaks && { position: "sticky", bottom: 12, zIndex: 1 }) }}>
      {broken.map((u) => (
        <Alert
          key={u.id} severity="info" sx={{ mb: 2 }}
          action={<Button size="small" variant="text" onClick={() => onForget(u.id)}>Forget it</Button>}
        >
          {u.name}: {megabytes(u.received_bytes)} of {megabytes(u.size_bytes)} MB came in before. Add the file again to go on from there.
        </Alert>
      ))}
      {uploads
        .filter((u) => u.fault !== null)
        .map((u) => (
          <Alert key={u.key} severity="error" sx={{ mb: 2 }} onClose={() => onDismiss(u.key)}>
            {u.fault}
          </Alert>
        ))}
      <Box
        sx={{
          display: "flex",
          alignItems: "center",
          gap: 6,
          p: 5,
          borderRadius: "15px",
          border: `1.5px dashed ${over ? colours.ink : colours.inputBorder}`,
          backgroundColor: over ? colours.card : colours.paper,
        }}
      >
        <svg width={56} height={50} viewBox="0 0 56 50" aria-hidden="true">
          <path d="M4 28a24 24 0 0 1 48 0" fill="none" stroke={colours.before} strokeWidth={3}
            strokeDasharray="7 6" strokeLinecap="round" />
          <path d="M28 12v24M19 27l9 9 9-9" fill="none" stroke={colours.ink} strokeWidth={3}
            strokeLinecap="round" strokeLinejoin="round" />
          <path d="M4 47h48" stroke={colours.ink} strokeWidth={3} strokeLinecap="round" />
        </svg>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h2" component="p">
            {over ? "Let go to bring them in" : "Drop recordings anywhere on this page"}
          </Typography>
          <Typography variant="body2" color="textSecondary">
            Or paste them, or add files. WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A, mono or stereo; measured as soon as they are in.
          </Typography>
        </Box>
        {coming[0] && <Moving upload={coming[0]} waiting={coming.length - 1} />}
      </Box>
    </Box>
  );
}

/** How fast it goes and how long it still takes, once that can be determined. */
function pace({ bytesPerS, sentBytes, sizeBytes }: Upload): string {
  if (bytesPerS === null || bytesPerS <= 0) return "";
  return `, ${megabytes(bytesPerS)} MB/s, ${formatTime((sizeBytes - sentBytes) / bytesPerS, 0)} left`;
}

function Moving({ upload, waiting }: { upload: Upload; waiting: number }) {
  const share = shareIn(upload);
  return (
    <Box sx={{ width: 300 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", gap: 2, mb: 1 }}>
        <Typography variant="body2" noWrap sx={{ fontWeight: 650 }}>
          {upload.name}
        </Typography>
        <Typography variant="body2" sx={{ flexShrink: 0 }}>{Math.round(100 * share)} % in</Typography>
      </Box>
      <LinearProgress
        variant="determinate"
        value={100 * share}
        aria-label={`Bringing in ${upload.name}`}
        sx={{ height: 8, borderRadius: "15px" }}
      />
      <Typography variant="caption" color="textSecondary" component="p">
        {upload.trouble ?? `${megabytes(upload.sentBytes)} of ${megabytes(upload.sizeBytes)} MB${pace(upload)}`}
        {waiting > 0 && `, ${waiting} more waiting`}
      </Typography>
    </Box>
  );
}
