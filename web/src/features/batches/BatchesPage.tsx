import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";

import { formatTime } from "../../pictures/figures";
import { useRecipes } from "../recipes";
import { useRecordings } from "../recordings";
import { useBatches, useStartBatch } from "./api";
import { batchProgress } from "./progress";

/** What the page that led here has chosen already. */
interface Chosen {
  recordings?: string[];
  recipe?: string;
}

/** Compose a batch; those there are. */
export function BatchesPage() {
  const { colours } = useTheme();
  const batches = useBatches();
  return (
    <Box sx={{ maxWidth: 1000 }}>
      <Typography variant="h1" sx={{ pt: 2 }}>
        Batches
      </Typography>
      <Typography variant="body2" color="textSecondary" sx={{ pb: 4 }}>
        One recipe over many recordings. A file that fails never stops the others.
      </Typography>
      <Compose />
      <Typography variant="h2" sx={{ mt: 8, mb: 2 }}>
        Earlier batches
      </Typography>
      {batches.error && <Alert severity="error">{batches.error.message}</Alert>}
      {batches.data?.length === 0 && <Typography>None yet.</Typography>}
      {batches.data?.map((batch) => {
        const p = batchProgress(batch.runs, batches.dataUpdatedAt);
        return (
          <Box key={batch.id} sx={{ display: "flex", gap: 5, py: 3, borderTop: `1px solid ${colours.rule}` }}>
            <Typography variant="h3" component={Link} to={`/batches/${batch.id}`} sx={{ flex: 1, color: "inherit" }}>
              {batch.name}
            </Typography>
            <Typography variant="body2">
              {batch.recipe_name}, version {batch.recipe_version}
            </Typography>
            <Typography variant="body2" sx={{ width: 220 }}>
              {p.done} of {batch.runs.length} done
              {p.running + p.waiting > 0 && `, ${p.running + p.waiting} to go`}
              {p.stopped > 0 && (
                <Box component="span" sx={{ color: colours.fail }}>
                  , {p.stopped} stopped
                </Box>
              )}
            </Typography>
          </Box>
        );
      })}
    </Box>
  );
}

function Compose() {
  const { colours } = useTheme();
  const given = (useLocation().state ?? {}) as Chosen;
  const recipes = useRecipes();
  const recordings = useRecordings();
  const start = useStartBatch();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [recipe, setRecipe] = useState(given.recipe ?? "");
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(given.recordings));
  const ready = (recordings.data ?? []).filter((r) => r.state === "done");
  const ids = ready.filter((r) => chosen.has(r.id)).map((r) => r.id);
  const total = ready.filter((r) => chosen.has(r.id)).reduce((s, r) => s + (r.duration_s ?? 0), 0);
  const toggle = (id: string, on: boolean) => {
    const next = new Set(chosen);
    if (on) next.add(id);
    else next.delete(id);
    setChosen(next);
  };
  return (
    <Box
      component="section"
      aria-label="New batch"
      sx={{ border: `1.5px solid ${colours.ink}`, borderRadius: "15px", p: 6, backgroundColor: colours.card }}
    >
      <Box sx={{ display: "flex", gap: 5, mb: 4 }}>
        <TextField
          select label="Recipe" value={recipes.data ? recipe : ""} sx={{ width: 300 }} size="small"
          onChange={(event) => setRecipe(event.target.value)}
        >
          {(recipes.data ?? []).map((r) => (
            <MenuItem key={r.id} value={r.id}>
              {r.name}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          label="Name of the batch" value={name} size="small" sx={{ flex: 1 }}
          placeholder="November guides and letters"
          onChange={(event) => setName(event.target.value)}
        />
      </Box>
      <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
        Recordings
      </Typography>
      {ready.length === 0 && (
        <Typography>None yet. Bring some in on the Recordings page first.</Typography>
      )}
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, columns: 2, columnGap: 8 }}>
        {ready.map((r) => (
          <Box component="li" key={r.id} sx={{ breakInside: "avoid" }}>
            <FormControlLabel
              control={
                <Checkbox
                  size="small" checked={chosen.has(r.id)}
                  onChange={(event) => toggle(r.id, event.target.checked)}
                />
              }
              label={`${r.name}, ${formatTime(r.duration_s ?? 0)}`}
            />
          </Box>
        ))}
      </Box>
      {start.error && (
        <Alert severity="error" sx={{ mt: 3 }}>
          {start.error.message}
        </Alert>
      )}
      <Box sx={{ display: "flex", alignItems: "center", justifyContent: "end", gap: 4, mt: 4 }}>
        <Typography variant="body2" color="textSecondary">
          {ids.length} chosen, {formatTime(total)} together. Files come out as WAV at their own rate.
        </Typography>
        <Button
          variant="contained"
          disabled={ids.length === 0 || recipe === "" || start.isPending}
          onClick={() =>
            start.mutate(
              { name, recipe, recordings: ids },
              { onSuccess: (batch) => navigate(`/batches/${batch.id}`) },
            )
          }
        >
          Run the batch
        </Button>
      </Box>
    </Box>
  );
}
