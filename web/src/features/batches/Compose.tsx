import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useDeferredValue, useMemo, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";

import type { Batch } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { useRecipes } from "../recipes";
import { useRecordings } from "../recordings";
import { FileWishFields, useTargets } from "../targets";
import { useBatches, usePreview, useStartBatch } from "./api";
import { arranged } from "./arrange";
import { ComposeRows } from "./ComposeRows";
import { asBefore, asBody, emptyOrder, goneSince, type Order } from "./order";
import { SetUpAs } from "./SetUpAs";
import { TagFields } from "./TagFields";

/** What the page that led here has chosen already. */
interface Chosen {
  recordings?: string[];
  recipe?: string;
  target?: string;
  /** A batch to set this one up as. */
  like?: Batch;
}


/** Recordings, recipe, target, names and tags of a batch to start. */
export function Compose() {
  const { colours } = useTheme();
  const given = (useLocation().state ?? {}) as Chosen;
  const recipes = useRecipes();
  const targets = useTargets();
  const recordings = useRecordings();
  const start = useStartBatch();
  const navigate = useNavigate();
  const batches = useBatches();
  const [like, setLike] = useState(given.like);
  const [order, setOrder] = useState<Order>(
    given.like ? asBefore(given.like) : { ...emptyOrder, recipe: given.recipe ?? "", target: given.target ?? "" },
  );
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(given.recordings));
  const [places, setPlaces] = useState<readonly string[]>(given.recordings ?? []);
  const ready = useMemo(() => arranged((recordings.data ?? []).filter((r) => r.state === "done"), places), [recordings.data, places]);
  const picked = ready.filter((r) => chosen.has(r.id));
  const ids = picked.map((r) => r.id);
  const totalS = picked.reduce((sum, r) => sum + (r.duration_s ?? 0), 0);
  const preview = usePreview(useDeferredValue(asBody(order, ids)));
  const set = (change: Partial<Order>) => setOrder({ ...order, ...change });
  const setUpAs = (id: string) => {
    const batch = batches.data?.find((b) => b.id === id);
    setLike(batch);
    // What was typed for single files is theirs.
    setOrder({ ...(batch ? asBefore(batch) : emptyOrder), own: order.own });
  };
  const target = targets.data?.find((t) => t.id === order.target);
  const error = recipes.error ?? recordings.error ?? targets.error ?? start.error ?? preview.error;
  if (recordings.data && ready.length === 0) {
    return <Typography>No recording is ready. <Link to="/recordings">Bring some in</Link> first.</Typography>;
  }
  return (
    <Box
      component="form" aria-label="New batch"
      onSubmit={(event) => {
        event.preventDefault();
        start.mutate(asBody(order, ids), { onSuccess: (batch) => navigate(`/batches/${batch.id}`) });
      }}
      sx={{ border: `1.5px solid ${colours.ink}`, borderRadius: "14px", backgroundColor: colours.card, p: 4, display: "grid", gap: 3 }}
    >
      <SetUpAs batches={batches.data ?? []} value={like?.id ?? ""} onChange={setUpAs} />
      {like && goneSince(like, order).map((words) => <Alert key={words} severity="warning">{words}</Alert>)}
      <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap" }}>
        <TextField label="Name" size="small" value={order.name} onChange={(e) => set({ name: e.target.value })} placeholder="as the recipe" slotProps={{ inputLabel: { shrink: true } }} sx={{ width: 220 }} />
        <TextField select label="Recipe" size="small" value={order.recipe} onChange={(e) => set({ recipe: e.target.value })} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }} sx={{ width: 280 }}>
          <MenuItem value="">each recording’s own chain</MenuItem>
          {recipes.data?.map((recipe) => <MenuItem key={recipe.id} value={recipe.id}>{recipe.name}</MenuItem>)}
        </TextField>
        <TextField select label="Target" size="small" value={order.target} onChange={(e) => set({ target: e.target.value })} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }} sx={{ width: 240 }}>
          <MenuItem value="">none</MenuItem>
          {targets.data?.map((t) => <MenuItem key={t.id} value={t.id}>{t.name}</MenuItem>)}
        </TextField>
        <TextField
          select label="Loudness across files" size="small" value={order.setLevel} disabled={!target} sx={{ width: 240 }}
          onChange={(e) => set({ setLevel: e.target.value === "keep" ? "keep" : "alike" })}
        >
          <MenuItem value="alike">all at the target’s level</MenuItem>
          <MenuItem value="keep">keep their differences</MenuItem>
        </TextField>
      </Box>
      {target && <Typography variant="body2" color="textSecondary">{target.sentences.join(" · ")}</Typography>}
      <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap" }}>
        <TextField
          label="File names" size="small" value={order.pattern} onChange={(e) => set({ pattern: e.target.value })} sx={{ width: 280 }}
          title="Fields: {title} {show} {label} {take} {number} {recipe} {target} {date} {original}; {take:02} pads with zeros"
        />
        <FileWishFields value={order.file} onChange={(file) => set({ file })} free={target ? "as the target" : "as recorded"} usual={target?.file?.container} />
      </Box>
      <Typography variant="caption" color="textSecondary">
        Names may hold {"{title} {show} {label} {take} {number} {recipe} {target} {date} {original}"}; {"{take:02}"} pads with zeros. Nothing is ever overwritten.
      </Typography>
      <TagFields order={order} onChange={set} />
      <ComposeRows recordings={ready} onArrange={setPlaces} chosen={chosen} onChoose={setChosen} order={order} onOrder={setOrder} planned={preview.data ?? []} />
      {error && <Alert severity="error">{error.message}</Alert>}
      <Box sx={{ display: "flex", alignItems: "center", gap: 3 }}>
        <Button type="submit" variant="contained" disabled={ids.length === 0 || start.isPending || preview.isError}>
          Start {ids.length} recording{ids.length === 1 ? "" : "s"}
        </Button>
        <Typography variant="body2">{ids.length} of {ready.length} chosen, {formatTime(totalS, 0)} in all</Typography>
      </Box>
    </Box>
  );
}
