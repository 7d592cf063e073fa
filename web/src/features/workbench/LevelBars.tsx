import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState } from "react";

import { SILENCE_DB, type NowLevels } from "../../audio/levels";
import type { Playback } from "../../audio/playback";
import { formatDb } from "../../pictures/figures";

const EVERY_MS = 80;
const [LOWEST_DB, HIGHEST_DB] = [-60, 3];
const share = (db: number) => `${100 * Math.min(1, Math.max(0, (db - LOWEST_DB) / (HIGHEST_DB - LOWEST_DB)))}%`;
const shown = (db: number) => (db <= LOWEST_DB ? "–" : formatDb(db));

interface Held {
  now: NowLevels;
  peakDbtp: number;
}

/** Level, loudness and held true peak of both sides while they play, whichever is heard. */
export function LevelBars({ player, playing }: { player: Playback; playing: boolean }) {
  const [held, setHeld] = useState<{ before: Held | null; after: Held | null }>({ before: null, after: null });
  const peaks = useRef({ before: SILENCE_DB, after: SILENCE_DB });
  useEffect(() => {
    if (!playing) return;
    const look = setInterval(() => {
      const taps = player.taps();
      if (!taps) return;
      const read = (side: "before" | "after"): Held | null => {
        const now = taps[side]?.levels();
        if (!now) return null;
        peaks.current[side] = Math.max(peaks.current[side], now.truePeakDbtp);
        return { now, peakDbtp: peaks.current[side] };
      };
      setHeld({ before: read("before"), after: read("after") });
    }, EVERY_MS);
    return () => clearInterval(look);
  }, [player, playing]);
  const forget = () => {
    peaks.current = { before: SILENCE_DB, after: SILENCE_DB };
    setHeld({ before: null, after: null });
  };
  return (
    <Box role="group" aria-label="Levels while playing" sx={{ display: "flex", alignItems: "center", gap: 4, pb: 2 }}>
      <Row side="before" held={held.before} />
      <Row side="after" held={held.after} />
      <Button size="small" variant="text" onClick={forget} title="Forget the highest true peaks so far">Reset</Button>
    </Box>
  );
}

function Row({ side, held }: { side: "before" | "after"; held: Held | null }) {
  const { colours } = useTheme();
  const [colour, text] = side === "before" ? [colours.before, colours.beforeText] : [colours.after, colours.afterText];
  const levels = held?.now ?? { rmsDbfs: SILENCE_DB, lufs: SILENCE_DB, truePeakDbtp: SILENCE_DB };
  const peakDbtp = held?.peakDbtp ?? SILENCE_DB;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 3, flex: 1, minWidth: 0 }}>
      <Typography variant="body2" sx={{ color: text, fontWeight: 650, width: 46 }}>{side === "before" ? "Before" : "After"}</Typography>
      <Box aria-hidden sx={{ position: "relative", flex: 1, height: 18, backgroundColor: colours.pith, borderRadius: "4px", overflow: "hidden" }}>
        <Box sx={{ position: "absolute", left: 0, top: 3, height: 6, width: share(levels.rmsDbfs), backgroundColor: colour }} />
        <Box sx={{ position: "absolute", left: 0, top: 11, height: 4, width: share(levels.lufs), backgroundColor: colour, opacity: 0.55 }} />
        <Box sx={{ position: "absolute", left: share(levels.truePeakDbtp), top: 0, bottom: 0, width: "2px", backgroundColor: colours.muted }} />
        <Box sx={{ position: "absolute", left: share(peakDbtp), top: 0, bottom: 0, width: "2px", backgroundColor: peakDbtp > 0 ? colours.fail : colours.ink }} />
      </Box>
      <Typography variant="caption" sx={{ whiteSpace: "nowrap", fontVariantNumeric: "tabular-nums", minWidth: 232 }}>
        level {shown(levels.rmsDbfs)} dBFS, {shown(levels.lufs)} LUFS, peak {shown(peakDbtp)} dBTP
      </Typography>
    </Box>
  );
}
