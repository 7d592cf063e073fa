import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Params, Step, StepType } from "../../api/types";
import { CrossIcon } from "../../pictures/icons";
import { useDropSettings, useSaveSettings, useSavedSettings } from "./savedSettings";

interface Props {
  step: Step;
  type: Pick<StepType, "label" | "starters">;
  onSet: (params: Params) => void;
}

/** Settings to start from, those kept before, and keeping these under a name; applied by one press. */
export function SavedSettingsMenu({ step, type: { label, starters }, onSet }: Props) {
  const { colours } = useTheme();
  const all = useSavedSettings().data;
  const kept = (all ?? []).filter((saved) => saved.type === step.type);
  const save = useSaveSettings();
  const drop = useDropSettings();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [name, setName] = useState("");
  const close = () => setAnchor(null);
  return (
    <>
      <Button size="small" variant="outlined" aria-haspopup="dialog" onClick={(event) => setAnchor(event.currentTarget)}>
        Saved settings
      </Button>
      <Popover
        anchorEl={anchor} open={anchor !== null} onClose={close} anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
        slotProps={{ paper: { role: "dialog", "aria-label": `Saved settings of ${label}`, sx: { width: 340, p: 4, border: `1px solid ${colours.rule}`, borderRadius: "15px" } } }}
      >
        {starters.length > 0 && <Typography variant="h3" component="h3">To start from</Typography>}
        {starters.map((starter) => (
          <Button
            key={starter.name} variant="text" sx={{ display: "block", width: "100%", textAlign: "left" }}
            onClick={() => {
              onSet(starter.params as Params);
              close();
            }}
          >
            {starter.name}
          </Button>
        ))}
        <Typography variant="h3" component="h3" sx={{ mt: starters.length > 0 ? 3 : 0 }}>Your own</Typography>
        {all && kept.length === 0 && <Typography variant="body2" sx={{ mb: 2 }}>None yet. Keep what is set now under a name:</Typography>}
        {kept.map((saved) => (
          <Box key={saved.id} sx={{ display: "flex", alignItems: "center", borderBottom: `1px solid ${colours.rule}` }}>
            <Button
              variant="text" sx={{ flex: 1, justifyContent: "start" }}
              onClick={() => {
                onSet(saved.params as Params);
                close();
              }}
            >
              {saved.name}
            </Button>
            <IconButton size="small" aria-label={`Delete ${saved.name}`} onClick={() => drop.mutate(saved.id)}>
              <CrossIcon size={13} />
            </IconButton>
          </Box>
        ))}
        <Box
          component="form" sx={{ display: "flex", gap: 2, mt: 3 }}
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate({ type: step.type, name, params: step.params }, { onSuccess: () => setName("") });
          }}
        >
          <TextField size="small" label="Name" value={name} onChange={(event) => setName(event.target.value)} sx={{ flex: 1 }} error={save.error !== null} helperText={save.error?.message} />
          <Button type="submit" variant="contained" size="small" disabled={name.trim() === ""} sx={{ alignSelf: "start", mt: 0.5 }}>Save</Button>
        </Box>
      </Popover>
    </>
  );
}
