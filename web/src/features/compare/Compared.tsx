import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useState, type ReactNode } from "react";

import type { TimeSeries, Measures, Spectrogram, Target } from "../../api/types";
import { formatChange } from "../../pictures/figures";
import { DownloadIcon } from "../../pictures/icons";
import { HistogramPicture } from "./HistogramPicture";
import { LoudnessPicture } from "./LoudnessPicture";
import { MeasureTable } from "./MeasureTable";
import { asCsv, measureRows, thirdOctaves } from "./measureRows";
import { PictureCard } from "./PictureCard";
import type { PassageSpan } from "../live";
import { SpectrogramPair } from "./SpectrogramPair";
import { SpectrumPair } from "./SpectrumPair";
import { TonePicture } from "./TonePicture";

interface Props {
  name: string;
  before: Measures;
  after: Measures;
  /** What has changed. */
  words: readonly string[];
  target: Target | null;
  series: readonly [TimeSeries, TimeSeries] | null;
  spectrograms: readonly [Spectrogram, Spectrogram] | null;
  error: Error | null;
  onZoom: ((span: PassageSpan) => void) | null;
  /** What plays. */
  children: ReactNode;
}

const marks = (m: Measures) => ({ voice: m.voice_level_dbfs ?? null, noise: m.noise_floor_dbfs ?? null });

/** Words, figures and pictures of two sides; pictures are drawn equally loud. */
export function Compared({ name, before, after, words, target, series, spectrograms, error, onZoom, children }: Props) {
  const [fine, setFine] = useState(false);
  const rows = measureRows(before, after);
  // Of the shown figures, so that pictures and table agree.
  const louderDb = rows.find((row) => row.name === "integrated_lufs")?.change ?? 0;
  const bands = thirdOctaves(before, after);
  const told = words.length > 0 ? `${words.join("; ")}.` : "Nothing that would be heard has changed.";
  const loudness = target?.bounds?.integrated_lufs;
  const drawn = `drawn ${formatChange(-louderDb)} dB, as loud as before`;
  return (
    <Box>
      {children}
      {error && <Alert severity="error" sx={{ mt: 2 }}>{error.message}</Alert>}
      <Box sx={{ display: "flex", alignItems: "center", gap: 3, my: 3 }}>
        <Typography role="status" sx={{ flex: 1, fontSize: 16, fontWeight: 600 }}>{told.charAt(0).toUpperCase() + told.slice(1)}</Typography>
        <Button size="small" variant="outlined" startIcon={<DownloadIcon size={16} />} href={`data:text/csv;charset=utf-8,${encodeURIComponent(asCsv(before, after))}`} download={`${name}.csv`}>
          Figures as CSV
        </Button>
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fit, minmax(460px, 1fr))", columnGap: 8, rowGap: 6, alignItems: "start" }}>
        <MeasureTable rows={rows} target={target} />
        <PictureCard
          title="Tone" note={`dBFS; after ${drawn}. Below: the difference.`} name={`${name}, tone`}
          tools={
            <ToggleButtonGroup size="small" exclusive value={fine ? "fine" : "bands"} onChange={(_, kind: string | null) => kind && setFine(kind === "fine")} aria-label="Resolution" sx={{ "& button": { py: 0 } }}>
              <ToggleButton value="bands">⅓ octave</ToggleButton>
              <ToggleButton value="fine">Fine</ToggleButton>
            </ToggleButtonGroup>
          }
        >
          {(width) =>
            fine && series ? (
              <SpectrumPair a={series[0]} b={series[1]} louderDb={louderDb} width={width} height={330} />
            ) : bands.length > 0 ? (
              <TonePicture bands={bands} width={width} height={330} louderDb={louderDb} />
            ) : (
              <Typography>Too quiet to tell.</Typography>
            )
          }
        </PictureCard>
        {series && (
          <>
            <PictureCard title="Loudness over time" note={`LUFS; after ${drawn}. Thin 0.4 s, thick 3 s.${onZoom ? " Drag to look closer." : ""}`} name={`${name}, loudness`}>
              {(width) => (
                <LoudnessPicture
                  a={series[0]} b={series[1]} width={width} height={220} louderDb={louderDb} onZoom={onZoom}
                  target={loudness ? { low: loudness.low ?? null, high: loudness.high ?? null } : null}
                />
              )}
            </PictureCard>
            <PictureCard title="Levels" note="Share of time at each level, dBFS, as they are. ● voice, ▪ noise." name={`${name}, levels`}>
              {(width) => <HistogramPicture a={series[0]} b={series[1]} marks={[marks(before), marks(after)]} width={width} height={220} />}
            </PictureCard>
          </>
        )}
        {spectrograms && (
          <Box sx={{ gridColumn: "1 / -1" }}>
            <PictureCard title="Spectrograms" note={`One scale; after ${drawn}.`} name={`${name}, spectrograms`}>
              {(width) => <SpectrogramPair a={spectrograms[0]} b={spectrograms[1]} louderDb={louderDb} width={width} height={300} />}
            </PictureCard>
          </Box>
        )}
      </Box>
    </Box>
  );
}
