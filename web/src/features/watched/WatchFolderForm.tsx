import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import { useRecipes } from "../recipes";
import { useTargets } from "../targets";
import { useWatchFolder } from "./api";
import { FolderField } from "./FolderField";

/** Folder to watch, recipe, target and output folder. */
export function WatchFolderForm({ onDone }: { onDone: () => void }) {
  const recipes = useRecipes();
  const targets = useTargets();
  const watch = useWatchFolder();
  const [folder, setFolder] = useState("");
  const [outFolder, setOutFolder] = useState("");
  const [recipe, setRecipe] = useState("");
  const [target, setTarget] = useState("");
  return (
    <Box
      component="form" aria-label="Watch a folder" sx={{ display: "grid", gap: 3 }}
      onSubmit={(event) => {
        event.preventDefault();
        watch.mutate({ folder, out_folder: outFolder, recipe, target: target || null }, { onSuccess: onDone });
      }}
    >
      <Box sx={{ display: "flex", gap: 3 }}>
        <FolderField label="Folder" value={folder} placeholder="/srv/…" onChange={setFolder} />
        <FolderField label="Output folder" value={outFolder} placeholder="“delivered” in that folder" onChange={setOutFolder} />
      </Box>
      <Box sx={{ display: "flex", gap: 3, alignItems: "center" }}>
        <TextField select size="small" label="Recipe" value={recipe} onChange={(event) => setRecipe(event.target.value)} sx={{ flex: 1 }}>
          {(recipes.data ?? []).map((one) => <MenuItem key={one.id} value={one.id}>{one.name}</MenuItem>)}
        </TextField>
        <TextField
          select size="small" label="Target" value={target} onChange={(event) => setTarget(event.target.value)} sx={{ flex: 1 }}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          <MenuItem value="">none: WAV as recorded</MenuItem>
          {(targets.data ?? []).map((one) => <MenuItem key={one.id} value={one.id}>{one.name}</MenuItem>)}
        </TextField>
        <Button type="submit" variant="contained" size="small" disabled={folder.trim() === "" || recipe === "" || watch.isPending}>Watch</Button>
        <Button variant="text" size="small" onClick={onDone}>Cancel</Button>
      </Box>
      <Typography variant="body2" color="textSecondary">Existing files are delivered too. Source files are copied, never changed.</Typography>
      {watch.error && <Alert severity="error">{watch.error.message}</Alert>}
    </Box>
  );
}
