import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { useState, type ReactNode } from "react";

import type { Recipe, Recording, Run } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { RedoIcon, UndoIcon } from "../../pictures/icons";
import { RecipesMenu } from "../recipes";
import { NO_CHAIN } from "./chainWords";
import { UndoList } from "./UndoList";

interface Props {
  recording: Recording;
  chainLine: string;
  recipes: Recipe[];
  /** What undo and redo would change; null where there is nothing. */
  undoes: string | null;
  redoes: string | null;
  canRun: boolean;
  busyRun: Run | null;
  /** The last run is of what is set now. */
  isCurrent: boolean;
  /** All that can be taken back, the last change first. */
  earlier: readonly string[];
  /** Undo that many changes, by default one. */
  onUndo: (count?: number) => void;
  onRedo: () => void;
  onApply: (recipe: Recipe) => void;
  onSave: () => void;
  onRun: () => void;
  onDeliver: () => void;
  onCancel: () => void;
  /** What stands beside the title. */
  beside?: ReactNode;
  /** What stands beside the chain's name. */
  children?: ReactNode;
}

/** Title, what the chain is, and the acts on the whole. */
export function WorkbenchHead(props: Props) {
  const { recording, busyRun } = props;
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const told = busyRun?.state === "waiting" ? "Waiting" : busyRun ? `${Math.round(100 * busyRun.progress)} %${pace(busyRun)}` : "";
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, minHeight: 60, flexWrap: "wrap" }}>
      <Box sx={{ flex: "1 1 260px", minWidth: 0 }}>
        <Box sx={{ display: "flex", alignItems: "center", gap: 3 }}>
          <Typography variant="h1" noWrap title={recording.name} sx={{ pb: 0.5, minWidth: 0 }}>
            {recording.name}
          </Typography>
          {props.beside}
        </Box>
        <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
          <Typography variant="body2" color="textSecondary" noWrap title={props.chainLine}>
            {props.chainLine}
          </Typography>
          {props.children}
        </Box>
      </Box>
      <IconButton size="small" aria-label="Undo" title={`Undo${props.undoes ? `: ${props.undoes}` : ""} (Ctrl+Z)`} onClick={() => props.onUndo()} disabled={props.undoes === null}>
        <UndoIcon />
      </IconButton>
      <UndoList changes={props.earlier} onUndo={props.onUndo} />
      <IconButton size="small" aria-label="Redo" title={`Redo${props.redoes ? `: ${props.redoes}` : ""} (Ctrl+Shift+Z)`} onClick={props.onRedo} disabled={props.redoes === null}>
        <RedoIcon />
      </IconButton>
      <Button variant="outlined" aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)} disabled={props.recipes.length === 0}>
        Apply a recipe
      </Button>
      <RecipesMenu recipes={props.recipes} anchor={anchor} onClose={() => setAnchor(null)} onApply={props.onApply} />
      <OnAChain has={props.canRun}>
        <Button variant="outlined" onClick={props.onSave} disabled={!props.canRun}>
          Save as recipe
        </Button>
      </OnAChain>
      <OnAChain has={props.canRun}>
        <Button variant="outlined" onClick={props.onDeliver} disabled={!props.canRun}>
          Deliver
        </Button>
      </OnAChain>
      {busyRun ? (
        <Box sx={{ width: 240, display: "flex", alignItems: "center", gap: 2 }}>
          <Box sx={{ flex: 1 }}>
            <Typography variant="caption" noWrap component="p" sx={{ maxWidth: 150 }} title={`${told}${busyRun.doing && `: ${busyRun.doing}`}`}>
              {told}
            </Typography>
            <LinearProgress variant="determinate" value={100 * busyRun.progress} aria-label="Run" sx={{ height: 8, borderRadius: "15px" }} />
          </Box>
          <Button size="small" variant="outlined" onClick={props.onCancel}>
            Cancel
          </Button>
        </Box>
      ) : (
        <OnAChain has={props.canRun}>
          <Button variant={props.isCurrent ? "outlined" : "contained"} onClick={props.onRun} disabled={!props.canRun} sx={{ minWidth: 126 }}>
            {props.isCurrent ? "Run again" : "Run the chain"}
          </Button>
        </OnAChain>
      )}
    </Box>
  );
}

/** Says why an act on the chain is greyed out; the button itself takes no pointer then. */
function OnAChain({ has, children }: { has: boolean; children: ReactNode }) {
  return (
    <Box component="span" title={has ? undefined : NO_CHAIN} sx={{ display: "inline-flex" }}>
      {children}
    </Box>
  );
}

/** How fast a run goes and how long it takes yet, once that can be determined. */
export function pace(run: Run, nowMs = Date.now()): string {
  const elapsedS = run.started_at ? (nowMs - Date.parse(run.started_at)) / 1000 : 0;
  if (elapsedS < 1 || run.progress < 0.02) return "";
  const leftS = (elapsedS * (1 - run.progress)) / run.progress;
  return `, ${formatTime(leftS, 0)} left, ${Math.round((run.duration_s * run.progress) / elapsedS)} times real time`;
}
