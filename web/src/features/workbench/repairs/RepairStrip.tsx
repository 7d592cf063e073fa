import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { StepType } from "../../../api/types";
import type { RepairSpan } from "../../../audio/cutTimes";
import { formatDb, formatTime } from "../../../pictures/figures";
import { useWidth } from "../../../pictures/useWidth";
import { HEAD_LEFT } from "../levelGeometry";
import { placing } from "../mirrorPlaces";
import type { TimeSpan } from "../mirrorView";
import { actOn, lengthMs, STATE_WORDS, type MarkState, type RepairMark } from "./marks";
import { RepairList } from "./RepairList";

const HEIGHT = 22;
const LEAST_WIDTH = 7;

interface Props {
  marks: readonly RepairMark[];
  types: readonly StepType[];
  view: TimeSpan;
  /** Repairs of the chain, and what they could mend as well. */
  offered: readonly string[];
  selection: TimeSpan | null;
  onRefuse: (mark: RepairMark) => void;
  onMend: (mark: RepairMark) => void;
  onAdd: (span: RepairSpan) => void;
  onGoTo: (timeS: number) => void;
}

/** What repairs have mended, under the recording: each can be gone to, left alone or mended again. */
export function RepairStrip({ marks, types, view, offered, selection, onRefuse, onMend, onAdd, onGoTo }: Props) {
  const { colours } = useTheme();
  const [room, ref] = useWidth(1104);
  const [opened, setOpened] = useState<{ mark: RepairMark; anchor: HTMLElement } | null>(null);
  const [listed, setListed] = useState(false);
  const act = (mark: RepairMark) => (mark.state === "refused" ? onMend : onRefuse)(mark);
  const width = Math.max(100, room - HEAD_LEFT);
  const place = placing(view, width);
  const labelOf = (type: string) => types.find((t) => t.type === type)?.label ?? type;
  const shown = marks.filter((mark) => mark.end_s > view.startS && mark.start_s < view.endS);
  const close = (then: () => void) => () => {
    setOpened(null);
    then();
  };
  const faces: Record<MarkState, object> = {
    mended: { backgroundColor: colours.after },
    refused: { backgroundColor: colours.card, border: `1.5px dashed ${colours.muted}` },
    added: { backgroundColor: colours.card, border: `2px solid ${colours.after}` },
  };
  return (
    <Box ref={ref} component="section" aria-label="Repairs" sx={{ mt: 1 }}>
      <Box sx={{ position: "relative", ml: `${HEAD_LEFT}px`, width, height: HEIGHT, overflow: "hidden", borderBottom: `1px solid ${colours.rule}` }}>
        {shown.map((mark) => (
          <ButtonBase
            key={`${mark.type} ${mark.start_s} ${mark.state}`} title={`${labelOf(mark.type)}, ${STATE_WORDS[mark.state]}`}
            aria-label={`${labelOf(mark.type)} at ${formatTime(mark.start_s, 2)}, ${STATE_WORDS[mark.state]}`}
            onClick={(event) => setOpened({ mark, anchor: event.currentTarget })}
            sx={{
              position: "absolute", top: 4, height: HEIGHT - 8, borderRadius: "3px", ...faces[mark.state],
              left: place.x(mark.start_s) - 2, width: Math.max(LEAST_WIDTH, place.x(mark.end_s) - place.x(mark.start_s)),
            }}
          />
        ))}
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 3, ml: `${HEAD_LEFT}px`, mt: 1 }}>
        <Typography variant="body2">{inWords(marks, labelOf)}</Typography>
        {marks.length > 0 && (
          <Button size="small" variant="text" aria-expanded={listed} onClick={() => setListed(!listed)}>{listed ? "Hide the list" : "List"}</Button>
        )}
        {selection && offered.map((type) => (
          <Button
            key={type} size="small" variant="outlined"
            onClick={() => onAdd({ type, start_s: selection.startS, end_s: selection.endS })}
          >
            {labelOf(type)}: mend the selection
          </Button>
        ))}
        <Typography variant="body2" color="textSecondary" sx={{ ml: "auto" }}>E goes to the next, B lets hear before, R what is removed.</Typography>
      </Box>
      {listed && <Box sx={{ ml: `${HEAD_LEFT}px` }}><RepairList marks={marks} labelOf={labelOf} onAct={act} onGoTo={(mark) => onGoTo(mark.start_s)} /></Box>}
      <Menu open={opened !== null} anchorEl={opened?.anchor} onClose={() => setOpened(null)}>
        {opened && [
          <MenuItem key="go" onClick={close(() => onGoTo(opened.mark.start_s))}>
            Go to {formatTime(opened.mark.start_s, 2)}
            {opened.mark.strengthDb !== null && `, ${lengthMs(opened.mark)} ms, stands out by ${formatDb(opened.mark.strengthDb)} dB`}
          </MenuItem>,
          <MenuItem key="act" onClick={close(() => act(opened.mark))}>{actOn(opened.mark)}</MenuItem>,
        ]}
      </Menu>
    </Box>
  );
}

/** "Click 12 mended, 1 left alone. Breath 5 mended." */
function inWords(marks: readonly RepairMark[], labelOf: (type: string) => string): string {
  const types = [...new Set(marks.map(({ type }) => type))];
  return types
    .map((type) => {
      const counts = (["mended", "refused", "added"] as const)
        .map((state) => ({ state, count: marks.filter((mark) => mark.type === type && mark.state === state).length }))
        .filter(({ count }) => count > 0);
      return `${labelOf(type)}: ${counts.map(({ state, count }) => `${count} ${STATE_WORDS[state]}`).join(", ")}.`;
    })
    .join(" ");
}
