import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link } from "react-router";

import type { WatchedFile, WatchedFolder } from "../../api/types";
import { useRecipes } from "../recipes";
import { useTargets } from "../targets";
import { useChangeFolder, useStopWatching, useWatchedFolders } from "./api";
import { WatchFolderForm } from "./WatchFolderForm";

/** Folders on the server whose new files are delivered automatically. */
export function WatchedFolders() {
  const folders = useWatchedFolders();
  const [adding, setAdding] = useState(false);
  return (
    <>
      {folders.error && <Alert severity="error">{folders.error.message}</Alert>}
      {folders.data?.map((folder) => <Folder key={folder.id} folder={folder} />)}
      {adding ? (
        <WatchFolderForm onDone={() => setAdding(false)} />
      ) : (
        <Button variant="outlined" size="small" onClick={() => setAdding(true)}>Watch a folder</Button>
      )}
    </>
  );
}

function Folder({ folder }: { folder: WatchedFolder }) {
  const { colours } = useTheme();
  const change = useChangeFolder();
  const stop = useStopWatching();
  const recipes = useRecipes();
  const targets = useTargets();
  const target = targets.data?.find((t) => t.id === folder.target)?.name;
  const problem = folder.problem || folder.error || (folder.recipe === null ? "Its recipe was deleted; choose another." : "");
  const error = change.error ?? stop.error;
  return (
    <Box component="section" aria-label={folder.folder} sx={{ mb: 4, pb: 3, borderBottom: `1px solid ${colours.rule}` }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
        <Typography sx={{ fontWeight: 650, flex: 1, minWidth: 0 }} noWrap title={folder.folder}>{folder.folder}</Typography>
        <TextField
          select size="small" label="Recipe" value={recipes.data?.some((one) => one.id === folder.recipe) ? folder.recipe : ""} sx={{ width: 190 }}
          onChange={(event) => change.mutate({ id: folder.id, recipe: event.target.value })}
        >
          {(recipes.data ?? []).map((one) => <MenuItem key={one.id} value={one.id}>{one.name}</MenuItem>)}
        </TextField>
        {folder.batch && <Button size="small" variant="text" component={Link} to={`/batches/${folder.batch}`}>Its batch</Button>}
        <Button size="small" variant="outlined" onClick={() => change.mutate({ id: folder.id, paused: !folder.paused })}>{folder.paused ? "Go on" : "Pause"}</Button>
        <Button size="small" variant="text" onClick={() => stop.mutate(folder.id)} title="Recordings and finished files stay">Stop watching</Button>
      </Box>
      <Typography variant="body2" color="textSecondary">
        {target ? `Target ${target}. ` : ""}Output in {folder.out_folder}. {folder.delivered} delivered{folder.paused ? ", paused" : ""}.
      </Typography>
      {(problem || error) && <Alert severity="warning" sx={{ mt: 2 }}>{error?.message ?? problem}</Alert>}
      {folder.files.length > 0 && (
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 2, maxHeight: 180, overflowY: "auto" }}>
          {folder.files.map((file) => (
            <Box component="li" key={file.id} sx={{ display: "flex", gap: 3, py: 0.5, fontSize: 13 }}>
              <Box sx={{ flex: 1, minWidth: 0 }}>{file.recording ? <Link to={`/recordings/${file.recording}`}>{file.name}</Link> : file.name}</Box>
              <Box sx={{ flex: 1, color: file.state === "failed" || file.message ? colours.fail : "text.secondary" }}>{fileWords(file)}</Box>
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}

function fileWords(file: WatchedFile): string {
  if (file.state === "measuring") return "measuring";
  if (file.state === "running") return "processing";
  if (file.state === "failed") return file.message;
  return `delivered as ${file.delivered_as}${file.message ? `; ${file.message}` : ""}`;
}
