import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";

import { formatDb, formatPeak } from "../../pictures/figures";
import { useFigures, type Sound } from "./looking";
import type { TimeSpan } from "./mirrorView";

interface Props {
  side: "before" | "after";
  sound: Sound;
  span: TimeSpan | null;
}

/** Peak, RMS and loudness of the selection on one side. */
export function SelectionFigures({ side, sound, span }: Props) {
  const { colours } = useTheme();
  const { data, error } = useFigures(sound, span);
  if (error) return <Typography variant="body2">{error.message}</Typography>;
  if (!data) return null;
  return (
    <Typography variant="body2" title="True peak by BS.1770, RMS of all samples, gated loudness by BS.1770">
      <b style={{ color: side === "before" ? colours.beforeText : colours.afterText }}>{side}</b>{" "}
      peak <b>{formatPeak(data.true_peak_dbtp)}</b> dBTP, RMS <b>{formatDb(data.rms_dbfs)}</b> dBFS, loudness{" "}
      <b>{formatDb(data.integrated_lufs)}</b> LUFS
    </Typography>
  );
}
