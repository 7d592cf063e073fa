import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useEffect } from "react";

import { removedByDb, type Controls, type Difference, type Playback, type Side } from "../../audio/playback";
import { useTimeS } from "../../audio/usePlayer";
import { formatChange, formatTime } from "../../pictures/figures";
import { PauseIcon, PlayIcon } from "../../pictures/icons";

interface Props {
  player: Playback;
  state: Controls;
  difference: Difference;
  /** What stands after the time. */
  of: string;
  /** Level of what is only on one side, where it is known. */
  removedDbfs?: number | null;
  /** What the sides are called. */
  names?: readonly [string, string, string];
  /** Whether keys of the page act on it. */
  keys?: boolean;
}

/** Two sides to switch between at the same instant. */
export function SidePlayer({ player, state, difference, of, removedDbfs, names = ["Before", "After", "Removed"], keys = false }: Props) {
  const { colours } = useTheme();
  const timeS = useTimeS(player);
  const { louderDb } = difference;
  const byDb = removedByDb(difference);
  useEffect(() => {
    if (!keys) return;
    const down = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.repeat || event.ctrlKey || event.metaKey || target.closest("input, textarea, [role=combobox], [role=listbox]")) return;
      const acts: Record<string, () => void> = {
        " ": () => player.toggle(), b: () => player.choose("before"), m: () => player.match(!player.controls().matched),
        r: () => player.choose(player.controls().side === "removed" ? "after" : "removed"),
      };
      const act = acts[event.key.toLowerCase()];
      if (!act || (event.key === " " && target.closest("button"))) return;
      event.preventDefault();
      act();
    };
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "b" && player.controls().side === "before") player.choose("after");
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, [player, keys]);
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 2, flexWrap: "wrap" }}>
      <Button variant="contained" aria-label={state.playing ? "Pause" : "Play"} onClick={() => player.toggle()} sx={{ minWidth: 0, px: 3 }}>
        {state.playing ? <PauseIcon size={16} /> : <PlayIcon size={16} />}
      </Button>
      <ToggleButtonGroup size="small" exclusive value={state.side} aria-label="Side" onChange={(_, side: Side | null) => side && player.choose(side)}>
        <ToggleButton value="before" sx={{ color: colours.beforeText }}>{names[0]}</ToggleButton>
        <ToggleButton value="after" sx={{ color: colours.afterText }}>{names[1]}</ToggleButton>
        <ToggleButton value="removed">{names[2]}</ToggleButton>
      </ToggleButtonGroup>
      {louderDb !== null && (
        <Button size="small" variant={state.matched ? "contained" : "outlined"} aria-pressed={state.matched} onClick={() => player.match(!state.matched)}>
          Match
        </Button>
      )}
      <Typography variant="caption" sx={{ fontVariantNumeric: "tabular-nums" }}>
        {formatTime(timeS)} {of}
        {state.side === "removed" && Math.abs(byDb) >= 0.05 && `, ${names[1].toLowerCase()} ${formatChange(-byDb)} dB`}
        {state.side !== "removed" && state.matched && louderDb !== null && `, ${louderDb > 0 ? "after" : "before"} ${formatChange(-Math.abs(louderDb))} dB`}
        {removedDbfs != null && `, removed ${formatChange(removedDbfs)} dBFS`}
      </Typography>
      {state.fault && <Typography role="alert" variant="caption" sx={{ color: colours.fail }}>{state.fault}</Typography>}
    </Box>
  );
}
