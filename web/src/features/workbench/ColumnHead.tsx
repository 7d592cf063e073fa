import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";

import type { Step } from "../../api/types";
import { CautionIcon, GripIcon } from "../../pictures/icons";
import { gist } from "./stepWords";

interface Props {
  id: string;
  step: Step;
  label: string;
  left: number;
  width: number;
  chosen: boolean;
  /** What the step did, in a few words; null where that is not known. */
  did: string | null;
  /** How many findings there are about it. */
  findings: number;
  onFindings: (anchor: HTMLElement) => void;
  onMove: (by: number) => void;
  onDuplicate: () => void;
  onChoose: () => void;
  onSwitch: (enabled: boolean) => void;
  onRemove: () => void;
}

/** Head of a step's column: its name opens it, the grip moves it, the switch turns it off. */
export function ColumnHead({ id, step, label, left, width, chosen, did, findings, ...acts }: Props) {
  const { colours } = useTheme();
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({ id });
  return (
    <Box
      ref={setNodeRef}
      sx={{
        position: "absolute", top: 4, left, width, display: "flex", flexDirection: "column",
        alignItems: "center", zIndex: isDragging ? 3 : 1,
        backgroundColor: isDragging ? colours.pith : "transparent", borderRadius: 2,
      }}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <Box sx={{ display: "flex", alignItems: "center", height: 24 }}>
        <ButtonBase
          ref={setActivatorNodeRef} {...attributes} {...listeners}
          aria-label={`Move ${label}`} title="Drag to move; Space, then arrow keys"
          sx={{ width: 24, height: 24, color: colours.muted, cursor: "grab", borderRadius: 1, ml: -3 }}
        >
          <GripIcon size={14} />
        </ButtonBase>
        <ButtonBase
          onClick={acts.onChoose} aria-pressed={chosen}
          onKeyDown={(event) => {
            const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
            if (event.key === "Delete" || event.key === "Backspace") acts.onRemove();
            else if (event.altKey && by) acts.onMove(by);
            else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "d") acts.onDuplicate();
            else return;
            event.preventDefault();
          }}
          sx={{ px: findings > 0 ? 0.5 : 1, height: 24, borderRadius: 1 }}
        >
          <Typography
            variant="body2" noWrap
            sx={{
              fontWeight: chosen ? 750 : 650, maxWidth: width - (findings > 0 ? 38 : 30),
              color: step.enabled ? colours.ink : colours.muted,
            }}
          >
            {label}
          </Typography>
        </ButtonBase>
        {findings > 0 && (
          <ButtonBase
            aria-label={`${findings} ${findings === 1 ? "finding" : "findings"} about ${label}`} aria-haspopup="dialog"
            onClick={(event) => acts.onFindings(event.currentTarget)} sx={{ height: 24, px: 0.25, color: colours.caution, fontSize: 13, fontWeight: 650, gap: 0.25 }}
          >
            <CautionIcon size={13} />
            {findings}
          </ButtonBase>
        )}
      </Box>
      <Box sx={{ display: "flex", alignItems: "center", height: 24 }}>
        <Switch
          checked={step.enabled} onChange={(event) => acts.onSwitch(event.target.checked)}
          slotProps={{ input: { "aria-label": `${label} on` } }}
        />
        <Typography variant="caption" color="textSecondary" noWrap title={did ? `${gist(step)}; did here: ${did}` : gist(step)} sx={{ maxWidth: width - 42 }}>
          {did ?? gist(step)}
        </Typography>
      </Box>
    </Box>
  );
}
