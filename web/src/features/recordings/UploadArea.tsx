import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import LinearProgress from "@mui/material/LinearProgress";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";

import type { Upload } from "./uploads";

interface Props {
  uploads: Upload[];
  over: boolean;
  onDismiss: (key: number) => void;
}

const megabytes = (bytes: number) => (bytes / 1e6).toFixed(1);

/** Where files land, and those on their way. The whole page takes drops; this says so. */
export function UploadArea({ uploads, over, onDismiss }: Props) {
  const { colours } = useTheme();
  const moving = uploads.filter((u) => u.fault === null);
  return (
    <Box sx={{ mt: 5 }}>
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
          backgroundColor: over ? colours.card : "transparent",
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
            WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A, mono or stereo. They are measured as soon as they are in.
          </Typography>
        </Box>
        {moving[0] && <Moving upload={moving[0]} waiting={moving.length - 1} />}
      </Box>
    </Box>
  );
}

function Moving({ upload, waiting }: { upload: Upload; waiting: number }) {
  const share = upload.sizeBytes > 0 ? upload.sentBytes / upload.sizeBytes : 0;
  return (
    <Box sx={{ width: 300 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", mb: 1 }}>
        <Typography variant="body2" noWrap sx={{ fontWeight: 650 }}>
          {upload.name}
        </Typography>
        <Typography variant="body2">{Math.round(100 * share)} % in</Typography>
      </Box>
      <LinearProgress
        variant="determinate"
        value={100 * share}
        aria-label={`Bringing in ${upload.name}`}
        sx={{ height: 8, borderRadius: "15px" }}
      />
      <Typography variant="caption" color="textSecondary">
        {megabytes(upload.sentBytes)} of {megabytes(upload.sizeBytes)} MB
        {waiting > 0 && `, ${waiting} more waiting`}
      </Typography>
    </Box>
  );
}
