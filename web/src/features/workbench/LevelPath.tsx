import {
  closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext, sortableKeyboardCoordinates } from "@dnd-kit/sortable";
import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Levels, Step, StepType } from "../../api/types";
import { AddStep } from "./AddStep";
import { ColumnHead } from "./ColumnHead";
import { geometry, HEAD_LEFT } from "./levelGeometry";
import { LevelPicture, LineNames, type Limit } from "./LevelPicture";
import { useWidth } from "../../pictures/useWidth";

const HEAD = 54;
const PICTURE = 142;

interface Props {
  steps: Step[];
  types: StepType[];
  /** Levels of the recording and after each step; null where they are not known. */
  levels: (Levels | null)[];
  /** What each step did, in a few words. */
  did: (string | null)[];
  /** Findings about each step. */
  findings: number[];
  onFindings: (index: number, anchor: HTMLElement) => void;
  onDuplicate: (index: number) => void;
  /** Levels are estimated from the passage until the whole has been heard. */
  estimated: boolean;
  source: string;
  /** What the target bounds of the levels shown. */
  limits: readonly Limit[];
  chosen: number | null;
  onChoose: (index: number) => void;
  onSwitch: (index: number, enabled: boolean) => void;
  onMove: (from: number, to: number) => void;
  onRemove: (index: number) => void;
  onAdd: (type: StepType, at: number) => void;
}

/** The steps as columns, and the three levels running through them. */
export function LevelPath(props: Props) {
  const { steps, types, levels, source, chosen } = props;
  const { colours } = useTheme();
  const [room, ref] = useWidth(1104);
  const [moving, setMoving] = useState(false);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const g = geometry(room, steps.length + 1, PICTURE);
  const label = (type: string) => types.find((t) => t.type === type)?.label ?? type;
  const ids = steps.map((_, i) => `step-${i}`);
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    setMoving(false);
    if (over && active.id !== over.id) {
      props.onMove(ids.indexOf(String(active.id)), ids.indexOf(String(over.id)));
    }
  };
  return (
    <Box component="section" aria-label="Level path" ref={ref}
      // Reaches over the editor's edge, so that the open column runs into it without a line.
      sx={{ overflowX: "auto", overflowY: "hidden", position: "relative", zIndex: 1, pb: "2px", mb: "-2px" }}
    >
      <Box sx={{ position: "relative", width: g.width, minWidth: "100%" }}>
        {chosen !== null && !moving && (
          <Box
            sx={{
              position: "absolute", top: 0, height: HEAD + PICTURE + 28,
              left: g.centre(chosen + 1) - g.columnWidth / 2, width: g.columnWidth,
              backgroundColor: colours.card, border: `1.5px solid ${colours.ink}`,
              borderBottom: "none", borderRadius: "14px 14px 0 0",
            }}
          />
        )}
        <Box sx={{ position: "sticky", left: 0, width: 0, height: 0, zIndex: 2 }}>
          <Box
            sx={{
              width: HEAD_LEFT, height: HEAD + PICTURE + 24,
              // What scrolls by goes under the names.
              ...(g.width > room && { background: `linear-gradient(to right, ${colours.paper} 85%, transparent)` }),
            }}
          >
            <Box sx={{ height: HEAD, pt: "6px", whiteSpace: "nowrap" }}>
              <Typography variant="h3" component="h2">
                Level path
              </Typography>
              <Typography
                variant="caption" color="textSecondary"
                title={props.estimated ? "From the passage; exact once the chain has been run over the whole" : "True peak in dBTP, the others in dBFS"}
              >
                {props.estimated ? "estimated" : "dBFS, dBTP"}
              </Typography>
            </Box>
            <LineNames g={g} height={PICTURE} first={levels[0] ?? null} />
          </Box>
        </Box>
        <Box sx={{ position: "relative", height: HEAD }}>
          <Box
            sx={{
              position: "absolute", left: HEAD_LEFT, width: g.columnWidth, top: 8, textAlign: "center",
            }}
          >
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
              As recorded
            </Typography>
            <Typography variant="caption" color="textSecondary">
              {source}
            </Typography>
          </Box>
          <DndContext
            sensors={sensors} collisionDetection={closestCenter}
            onDragStart={() => setMoving(true)} onDragEnd={onDragEnd}
            onDragCancel={() => setMoving(false)}
          >
            <SortableContext items={ids} strategy={horizontalListSortingStrategy}>
              {steps.map((step, i) => (
                <ColumnHead
                  key={ids[i]} id={ids[i] ?? ""} step={step} label={label(step.type)}
                  left={g.centre(i + 1) - g.columnWidth / 2} width={g.columnWidth}
                  chosen={chosen === i}
                  did={props.did[i] ?? null} findings={props.findings[i] ?? 0}
                  onFindings={(anchor) => props.onFindings(i, anchor)}
                  onMove={(by) => i + by >= 0 && i + by < steps.length && props.onMove(i, i + by)}
                  onDuplicate={() => props.onDuplicate(i)}
                  onChoose={() => props.onChoose(i)}
                  onSwitch={(on) => props.onSwitch(i, on)}
                  onRemove={() => props.onRemove(i)}
                />
              ))}
            </SortableContext>
          </DndContext>
          {steps.map((step, i) => (
            <AddStep
              key={`before-${ids[i]}`} types={types} left={g.centre(i + 1) - g.columnWidth / 2} quiet
              name={`Add a step before ${label(step.type)}`} onAdd={(type) => props.onAdd(type, i)}
            />
          ))}
          <AddStep
            types={types} left={g.centre(steps.length) + g.columnWidth / 2 + 22} name="Add a step at the end"
            onAdd={(type) => props.onAdd(type, steps.length)}
          />
        </Box>
        <LevelPicture g={g} height={PICTURE} steps={steps} levels={levels} labelOf={label} limits={props.limits} />
      </Box>
    </Box>
  );
}
