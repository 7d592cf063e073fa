import ListSubheader from "@mui/material/ListSubheader";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";

import type { Recipe, Recording, Run, Step, StepType } from "../../api/types";
import type { Side } from "./sides";

export interface SideOption {
  key: string;
  group: string;
  side: Side;
}

interface From {
  recording: Recording;
  types: readonly StepType[];
  runs: readonly Run[];
  recipes: readonly Recipe[];
  others: readonly Recording[];
}

const clock = (run: Run) => new Date(run.created_at).toLocaleString(undefined, { month: "short", day: "numeric", hour: "2-digit", minute: "2-digit" });

/** Everything that can stand on a side. */
export function sideOptions({ recording, types, runs, recipes, others }: From): SideOption[] {
  const steps = recording.chain as Step[];
  const name = (step: Step) => types.find((t) => t.type === step.type)?.label ?? step.type;
  const proposed = (other: Recording) => other.proposed_passage?.start_s ?? 0;
  return [
    { key: "before", group: "", side: { kind: "before", label: "As recorded" } },
    ...runs.map((run) => ({ key: `run-${run.id}`, group: "Results", side: { kind: "run" as const, of: run.id, label: `${clock(run)}${run.recipe_name ? `, ${run.recipe_name}` : ""}${run.batch ? ", in a batch" : ""}` } })),
    ...steps.map((step, i) => ({
      key: `tap-${i}`, group: "The chain as it is set", side: { kind: "chain" as const, steps, upto: i + 1, label: `${i + 1}. After ${name(step)}` },
    })),
    ...recipes.map((recipe) => ({ key: `recipe-${recipe.id}`, group: "Recipes", side: { kind: "chain" as const, steps: recipe.steps as Step[], label: recipe.name } })),
    ...others.map((other) => ({
      key: `recording-${other.id}`, group: "Other recordings", side: { kind: "recording" as const, of: other.id, start_s: proposed(other), label: other.name },
    })),
  ];
}

/** A choice among everything that can stand on a side. */
export function SideChoice({ label, value, options, colour, onChange }: { label: string; value: string; options: readonly SideOption[]; colour: string; onChange: (key: string) => void }) {
  const groups = [...new Set(options.map((o) => o.group))];
  return (
    <TextField
      select size="small" label={label} value={value} onChange={(event) => onChange(event.target.value)}
      sx={{ width: 250, "& .MuiSelect-select": { color: colour, fontWeight: 650 } }} slotProps={{ inputLabel: { shrink: true } }}
    >
      {groups.flatMap((group) => [
        ...(group === "" ? [] : [<ListSubheader key={group} sx={{ lineHeight: "32px" }}>{group}</ListSubheader>]),
        ...options.filter((o) => o.group === group).map((o) => <MenuItem key={o.key} value={o.key}>{o.side.label}</MenuItem>),
      ])}
    </TextField>
  );
}
