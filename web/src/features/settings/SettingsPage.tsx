import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

import { APPEARANCES, chooseAppearance, useAppearance, type Appearance } from "../../app/appearance";
import { formatBytes } from "../../pictures/figures";
import { OwnAccount, useAccount } from "../account";
import { useRecipes } from "../recipes";
import { useTargets } from "../targets";
import { WatchedFolders } from "../watched";
import { useAbout, useChangePreferences, usePreferences } from "./api";
import { DeletedRecordings } from "./DeletedRecordings";
import { SpaceTaken } from "./SpaceTaken";

/** What new recordings begin with, how pages look, what lies on the disk. */
export function SettingsPage() {
  return (
    <Box sx={{ maxWidth: 1000 }}>
      <Typography variant="h1" sx={{ pt: 2 }}>Settings</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ pb: 4 }}>Kept at once. Recordings and results that are here stay as they are.</Typography>
      <Account />
      <Part name="New recordings" words="What they begin with; each can be changed afterwards."><NewRecordings /></Part>
      <Part name="Watched folders" words="New files in these folders on the server are measured, processed and delivered automatically."><WatchedFolders /></Part>
      <Part name="Appearance" words="In this browser."><AppearanceChoice /></Part>
      <Part name="Space on the disk" words="Every result is kept to compare with until it is removed here."><SpaceTaken /></Part>
      <Part name="Deleted recordings" words="Kept until the day that is named. What was learned of their rooms stays."><DeletedRecordings /></Part>
      <Part name="This installation"><About /></Part>
    </Box>
  );
}

function Part({ name, words, children }: { name: string; words?: string; children: ReactNode }) {
  const { colours } = useTheme();
  return (
    <Box component="section" aria-label={name} sx={{ borderTop: `1px solid ${colours.rule}`, py: 4, display: "flex", gap: 5, alignItems: "start", "@media (max-width: 900px)": { flexDirection: "column", gap: 3 } }}>
      <Box sx={{ width: 260, flexShrink: 0 }}>
        <Typography variant="h3" component="h2">{name}</Typography>
        {words && <Typography variant="body2" color="textSecondary">{words}</Typography>}
      </Box>
      <Box sx={{ flex: 1, minWidth: 0, width: "100%" }}>{children}</Box>
    </Box>
  );
}

/** Only where people sign in. */
function Account() {
  const name = useAccount().data?.name;
  return name ? <Part name="Account" words="What you see here is yours; others see theirs."><OwnAccount name={name} /></Part> : null;
}

function NewRecordings() {
  const preferred = usePreferences();
  const change = useChangePreferences();
  const recipes = useRecipes();
  const targets = useTargets();
  const error = preferred.error ?? change.error ?? recipes.error ?? targets.error;
  if (!preferred.data || !recipes.data || !targets.data) return error ? <Alert severity="error">{error.message}</Alert> : null;
  const choice = (name: "recipe" | "target", label: string, none: string, all: readonly { id: string; name: string }[]) => (
    <TextField
      select label={label} size="small" value={preferred.data[name] ?? ""} sx={{ width: 280 }}
      onChange={(event) => change.mutate({ [name]: event.target.value === "" ? null : event.target.value })}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      <MenuItem value="">{none}</MenuItem>
      {all.map((one) => <MenuItem key={one.id} value={one.id}>{one.name}</MenuItem>)}
    </TextField>
  );
  return (
    <>
      <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap" }}>
        {choice("recipe", "Recipe", "none: an empty chain", recipes.data)}
        {choice("target", "Target", "none", targets.data)}
      </Box>
      <FormControlLabel
        sx={{ mt: 2, ml: 0, gap: 2, "& .MuiFormControlLabel-label": { fontSize: 13 } }} label={`Run the chain as soon as a recording is measured${preferred.data.recipe ? "" : "; needs a recipe"}`}
        control={<Switch checked={(preferred.data.run_at_once ?? false) && preferred.data.recipe !== null} disabled={!preferred.data.recipe} onChange={(event) => change.mutate({ run_at_once: event.target.checked })} />}
      />
      {error && <Alert severity="error" sx={{ mt: 3 }}>{error.message}</Alert>}
    </>
  );
}

const APPEARANCE_WORDS: Record<Appearance, string> = { system: "As the system", light: "Light", dark: "Dark" };

function AppearanceChoice() {
  const appearance = useAppearance();
  return (
    <ToggleButtonGroup exclusive size="small" value={appearance} aria-label="Appearance" onChange={(_, next: Appearance | null) => next && chooseAppearance(next)}>
      {APPEARANCES.map((one) => <ToggleButton key={one} value={one} sx={{ px: 4, textTransform: "none" }}>{APPEARANCE_WORDS[one]}</ToggleButton>)}
    </ToggleButtonGroup>
  );
}

function About() {
  const about = useAbout();
  if (!about.data) return null;
  const { version, engine_version, cores, largest_file_bytes } = about.data;
  return (
    <Typography variant="body2">
      Zesty Voice {version}, engine version {engine_version}: receipts name it, and the same version makes the same bytes. It works on {cores} processor {cores === 1 ? "core" : "cores"} and takes in
      files of up to {formatBytes(largest_file_bytes)}.
    </Typography>
  );
}
