import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Params, Step } from "../../api/types";
import { CrossIcon } from "../../pictures/icons";
import { useDropSettings, useSaveSettings, useSavedSettings } from "./savedSettings";

/** This step's settings under a name, and those kept before, applied by one press. */
export function SavedSettingsMenu({ step, label, onSet }: { step: Step; label: string; onSet: (params: Params) => void }) {
  const { colours } = useTheme();
  const kept = (useSavedSettings().data ?? []).filter((saved) => saved.type === step.type);
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
        {kept.length === 0 && <Typography variant="body2" sx={{ mb: 2 }}>None yet. Keep what is set now under a name:</Typography>}
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
