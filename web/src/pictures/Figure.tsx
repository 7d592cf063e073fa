import Tooltip from "@mui/material/Tooltip";
import type { ReactNode } from "react";

/** How each measure is taken, said where it is shown. */
export const howMeasured = {
  true_peak_dbtp: "Highest level, also between the samples, dBTP (ITU-R BS.1770-5, Annex 2)",
  voice_level_dbfs: "How loud the voice is while it speaks, dBFS (ITU-T P.56, method B)",
  noise_floor_dbfs: "RMS of the room tone, or of the quietest half second, dBFS",
  clearance_db: "Voice level minus noise floor, dB",
  momentary_max_lufs: "Loudest 0.4 s, LUFS (EBU Tech 3341)",
  short_term_max_lufs: "Loudest 3 s, LUFS (EBU Tech 3341)",
  loudness_range_lu: "From soft to loud speech, LU (EBU Tech 3342)",
  sample_peak_dbfs: "Highest sample, dBFS",
  crest_db: "Sample peak minus RMS, dB",
  integrated_lufs: "Loudness of the whole, LUFS (ITU-R BS.1770-5, EBU R 128)",
  rms_dbfs: "Root mean square of the whole file, dBFS, without the 3 dB offset some meters add",
} as const;

interface Props {
  of: keyof typeof howMeasured;
  children: ReactNode;
}

/** A figure that tells on hover or focus how it was measured. */
export function Figure({ of, children }: Props) {
  return (
    <Tooltip title={howMeasured[of]} describeChild>
      <span>{children}</span>
    </Tooltip>
  );
}
