import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";

import type { FileWish } from "../../api/types";

interface Props {
  value: FileWish;
  onChange: (value: FileWish) => void;
  /** What an empty field stands for. */
  free: string;
  /** Container that stands where none is chosen. */
  usual?: string | null | undefined;
}

const FORMATS = [["WAV", "WAV"], ["FLAC", "FLAC"], ["MP3", "MP3"], ["OGG", "OGG"], ["OPUS", "Opus"]] as const;
const RATES_HZ = [22050, 24000, 32000, 44100, 48000, 88200, 96000];
const BITRATES_KBPS = [48, 64, 96, 128, 160, 192, 256, 320];
const isLossy = (container: string | null | undefined) => container === "MP3" || container === "OGG" || container === "OPUS";

/** What kind of file: format, rate, channels, depth or bitrate. */
export function FileWishFields({ value, onChange, free, usual }: Props) {
  const lossy = isLossy(value.container ?? usual);
  const set = (change: Partial<FileWish>) => {
    const next = { ...value, ...change };
    // Depth belongs to exact formats, bitrate to the others.
    if (isLossy(next.container ?? usual)) delete next.depth;
    else { delete next.bitrate_kbps; delete next.variable; }
    onChange(next);
  };
  const field = (label: string, name: keyof FileWish, options: readonly (readonly [string | number, string])[], width: number) => (
    <TextField
      select label={label} size="small" sx={{ width }} value={value[name] ?? ""}
      onChange={(event) => {
        const text = event.target.value;
        set({ [name]: text === "" ? null : typeof options[0]?.[0] === "number" ? Number(text) : text });
      }}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      <MenuItem value="">{free}</MenuItem>
      {options.map(([option, words]) => <MenuItem key={option} value={option}>{words}</MenuItem>)}
    </TextField>
  );
  return (
    <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap" }}>
      {field("Format", "container", FORMATS, 129)}
      {field("Rate", "sample_rate_hz", RATES_HZ.map((hz) => [hz, `${hz / 1000} kHz`] as const), 129)}
      {field("Channels", "channels", [[1, "mono"], [2, "stereo"]], 129)}
      {lossy
        ? field("Bitrate", "bitrate_kbps", BITRATES_KBPS.map((k) => [k, `${k} kbit/s`] as const), 129)
        : field("Depth", "depth", [["16", "16 bit"], ["24", "24 bit"], ["32f", "32 bit float"]], 129)}
    </Box>
  );
}
