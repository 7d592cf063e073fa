import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import InputBase from "@mui/material/InputBase";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Colours } from "../../../app/colours";
import type { Speakers } from "../../../audio/cutTimes";
import { formatTime } from "../../../pictures/figures";
import { useWidth } from "../../../pictures/useWidth";
import { HEAD_LEFT } from "../levelGeometry";
import { placing } from "../mirrorPlaces";
import type { TimeSpan } from "../mirrorView";
import { canPart, given, merged, MOST_SPEAKERS, parted, renamed, speaksS } from "./turns";

const HEIGHT = 22;
const NAMED_FROM = 54;

interface Props {
  speakers: Speakers;
  /** Somebody has corrected them; they are no longer found anew. */
  corrected: boolean;
  view: TimeSpan;
  playheadS: () => number;
  onSet: (speakers: Speakers | null) => void;
  onGoTo: (timeS: number) => void;
}

/** Who speaks when, under the recording; a press on a turn corrects it. */
export function SpeakerStrip({ speakers, corrected, view, playheadS, onSet, onGoTo }: Props) {
  const { colours } = useTheme();
  const [room, ref] = useWidth(1104);
  const [opened, setOpened] = useState<{ at: number; anchor: HTMLElement; timeS: number } | null>(null);
  const width = Math.max(100, room - HEAD_LEFT);
  const place = placing(view, width);
  const shown = speakers.turns.map((turn, at) => ({ turn, at })).filter(({ turn }) => turn.end_s > view.startS && turn.start_s < view.endS);
  const turn = opened && speakers.turns[opened.at];
  const set = (next: Speakers) => {
    setOpened(null);
    onSet(next);
  };
  return (
    <Box ref={ref} component="section" aria-label="Speakers" sx={{ mt: 1 }}>
      <Box sx={{ position: "relative", ml: `${HEAD_LEFT}px`, width, height: HEIGHT, overflow: "hidden", borderBottom: `1px solid ${colours.rule}` }}>
        {shown.map(({ turn: { start_s, end_s, speaker }, at }) => {
          const [left, right] = [Math.max(-2, place.x(start_s)), Math.min(width + 2, place.x(end_s))];
          const name = speakers.names[speaker] ?? "";
          return (
            <ButtonBase
              key={`${start_s} ${speaker}`} aria-label={`${name}, ${formatTime(start_s, 1)} to ${formatTime(end_s, 1)}`} title={name}
              onClick={(event) => setOpened({ at, anchor: event.currentTarget, timeS: playheadS() })}
              sx={{
                position: "absolute", left, width: Math.max(2, right - left - 1), top: 2, height: HEIGHT - 4, borderRadius: "2px", fontFamily: "inherit", fontSize: 11, fontWeight: 600,
                backgroundColor: colours.card, color: colours.ink, border: `1px solid ${colourOf(speaker, colours)}`, borderLeft: `4px solid ${colourOf(speaker, colours)}`,
                justifyContent: "flex-start", px: 1, overflow: "hidden", whiteSpace: "nowrap",
              }}
            >
              {right - left > NAMED_FROM ? name : right - left > 16 ? speaker + 1 : ""}
            </ButtonBase>
          );
        })}
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 4, ml: `${HEAD_LEFT}px`, mt: 1 }}>
        {speakers.names.map((name, i) => (
          <Speaker
            key={`${i} ${name}`} name={name} place={i} speaksS={speaksS(speakers)[i] ?? 0} others={speakers.names}
            onRename={(to) => onSet(renamed(speakers, i, to))} onMerge={(into) => onSet(merged(speakers, i, into))}
          />
        ))}
        <Typography variant="body2" color="textSecondary" sx={{ ml: "auto" }}>
          {corrected ? "Corrected by hand" : "Found by the leveller. Press a turn to correct it."}
        </Typography>
        {corrected && <Button size="small" variant="text" onClick={() => onSet(null)}>Find anew</Button>}
      </Box>
      <Menu open={opened !== null} anchorEl={opened?.anchor} onClose={() => setOpened(null)}>
        {opened && turn && [
          <MenuItem key="go" onClick={() => { setOpened(null); onGoTo(turn.start_s); }}>Go to {formatTime(turn.start_s, 1)}</MenuItem>,
          ...speakers.names.map((name, i) => i !== turn.speaker && (
            <MenuItem key={name} onClick={() => set(given(speakers, opened.at, i))}>This is {name}</MenuItem>
          )),
          speakers.names.length < MOST_SPEAKERS && (
            <MenuItem key="new" onClick={() => set(given(speakers, opened.at, speakers.names.length))}>This is somebody else</MenuItem>
          ),
          <MenuItem key="part" disabled={!canPart(turn, opened.timeS)} onClick={() => set(parted(speakers, opened.at, opened.timeS))}>Part at the playhead</MenuItem>,
        ]}
      </Menu>
    </Box>
  );
}

interface SpeakerProps {
  name: string;
  place: number;
  speaksS: number;
  others: readonly string[];
  onRename: (name: string) => void;
  onMerge: (into: number) => void;
}

/** A speaker's name and time, to be renamed or merged with another. */
function Speaker({ name, place, speaksS: seconds, others, onRename, onMerge }: SpeakerProps) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, fontSize: 13 }}>
      <Box sx={{ width: 20, height: 18, borderLeft: `4px solid ${colourOf(place, colours)}`, pl: 1, fontWeight: 600 }}>{place + 1}</Box>
      <InputBase
        defaultValue={name} sx={{ fontSize: 13, fontWeight: 600, width: 96, borderBottom: `1px dotted ${colours.inputBorder}` }}
        inputProps={{ "aria-label": `Name of speaker ${place + 1}`, maxLength: 60 }}
        onBlur={(event) => {
          const to = event.target.value.trim();
          if (to !== "" && to !== name) onRename(to);
        }}
        onKeyDown={(event) => { if (event.key === "Enter") (event.target as HTMLElement).blur(); }}
      />
      <Box sx={{ color: colours.muted }}>{formatTime(seconds)}</Box>
      {others.length > 1 && (
        <Button size="small" variant="text" sx={{ minWidth: 0, px: 1 }} aria-label={`Merge ${name}`} onClick={(event) => setAnchor(event.currentTarget)}>Merge</Button>
      )}
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {others.map((other, i) => i !== place && (
          <MenuItem key={other} onClick={() => { setAnchor(null); onMerge(i); }}>Is the same as {other}</MenuItem>
        ))}
      </Menu>
    </Box>
  );
}

/** Tangerine is after's; each speaker has a number as well. */
function colourOf(speaker: number, colours: Colours): string {
  const row = [colours.before, colours.room, colours.usual, colours.pass, colours.caution, colours.muted];
  return row[speaker % row.length] ?? colours.ink;
}
