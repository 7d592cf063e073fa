import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording, Step } from "../../api/types";
import { formatDb } from "../../pictures/figures";
import { useDeleteHouseVoice, useDistance, useHouseVoices, useMakeHouseVoice } from "./api";
import { ToneGap } from "./ToneGap";

interface Props {
  recording: Recording;
  /** Its latest result; null without one. */
  resultId: string | null;
  onAdd: (step: Step) => void;
}

const WIDTH = 400;

/** How far this recording is from the voice of its show, and one press that closes the gap. */
export function HouseVoiceButton({ recording, resultId, onAdd }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [chosenId, setChosenId] = useState<string | null>(null);
  const houses = useHouseVoices().data ?? [];
  // That of its group comes first, where there is one of the name.
  const house = houses.find((h) => h.id === chosenId) ?? houses.find((h) => h.name === recording.group) ?? houses[0] ?? null;
  const distance = useDistance(house?.id ?? null, recording.id, `${recording.finished_at} ${resultId}`);
  const remove = useDeleteHouseVoice();
  const of = resultId === null ? distance.data?.recorded : distance.data?.finished ?? distance.data?.recorded;
  const close = () => setAnchor(null);
  const rows = of ? ([
    ["Tone, mean difference", `${formatDb(of.tone_db)} dB`],
    ["Voice level", signed(of.voice_level_db)],
    ["Spread of phrases", signed(of.spread_db)],
    ["Clearance", signed(of.clearance_db)],
  ] as const) : [];
  // The first one is kept on the list of recordings, of one or several that are finished.
  if (!house) return null;
  return (
    <>
      <Button
        size="small" variant="text" aria-haspopup="dialog" title={`Difference of tone from the house voice ${house.name}`} onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ whiteSpace: "nowrap", flexShrink: 0, fontWeight: 600, px: 2, py: 0, minWidth: 0, color: colours.ink, backgroundColor: colours.pith, "&:hover": { backgroundColor: colours.rule } }}
      >
        House voice{of ? `: ${formatDb(of.tone_db)} dB` : ""}
      </Button>
      <Popover
        anchorEl={anchor} open={anchor !== null} onClose={close} anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": "House voice", sx: { width: WIDTH + 42, p: 5, border: `1px solid ${colours.rule}`, borderRadius: "15px", display: "grid", gap: 3 } } }}
      >
        <TextField select size="small" label="House voice" value={house.id} onChange={(event) => setChosenId(event.target.value)}>
          {houses.map((h) => <MenuItem key={h.id} value={h.id}>{h.name}</MenuItem>)}
        </TextField>
        {of && (
          <>
            <Box component="dl" sx={{ m: 0, display: "grid", gridTemplateColumns: "1fr auto", rowGap: 1, fontSize: 13 }}>
              {rows.map(([name, value]) => [
                <Box component="dt" key={name} sx={{ color: colours.muted }}>{name}</Box>,
                <Box component="dd" key={`${name} figure`} sx={{ m: 0, fontWeight: 700, textAlign: "right" }}>{value}</Box>,
              ])}
            </Box>
            <ToneGap bandsDb={of.bands_db} width={WIDTH} />
            <Typography variant="caption" color="textSecondary">
              {resultId === null ? "As recorded" : "The last result"}, over and under {house.name} (made of {house.made_of.join(", ")}).
            </Typography>
            <Box sx={{ display: "flex", gap: 2 }}>
              <Button variant="contained" onClick={() => { close(); onAdd(distance.data?.step as Step); }}>Close the gap</Button>
              <Button variant="text" sx={{ ml: "auto" }} onClick={() => remove.mutate(house.id)}>Delete {house.name}</Button>
            </Box>
          </>
        )}
        {distance.data && !of && <Typography variant="body2">No voice was found in this recording.</Typography>}
        {[distance.error, remove.error].map((error, i) => error && <Alert key={i} severity="error">{error.message}</Alert>)}
        <KeepHouseVoice recordings={[recording]} suggested={recording.group ?? ""} />
      </Popover>
    </>
  );
}

const signed = (value: number | null) => (value === null ? "not known" : `${value > 0 ? "+" : ""}${formatDb(value)} dB`);

/** Keep the voice of recordings under a name. */
export function KeepHouseVoice({ recordings, suggested }: { recordings: readonly Recording[]; suggested: string }) {
  const [name, setName] = useState(suggested);
  const make = useMakeHouseVoice();
  return (
    <Box
      component="form" sx={{ display: "grid", gap: 2 }}
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate({ name: name.trim(), recordings: recordings.map((r) => r.id) }, { onSuccess: () => setName("") });
      }}
    >
      <Box sx={{ display: "flex", gap: 2 }}>
        <TextField size="small" label="Show or narrator" value={name} onChange={(event) => setName(event.target.value)} sx={{ flex: 1 }} slotProps={{ htmlInput: { maxLength: 200 } }} />
        <Button type="submit" variant="outlined" disabled={name.trim() === "" || make.isPending}>
          {recordings.length === 1 ? "Keep this voice" : "Keep their voice"}
        </Button>
      </Box>
      {make.error && <Alert severity="error">{make.error.message}</Alert>}
      {make.data && <Typography variant="body2" role="status">Kept as {make.data.name}.</Typography>}
    </Box>
  );
}
