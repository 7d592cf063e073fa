import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";

import type { Step } from "../../api/types";
import { GripIcon } from "../../pictures/icons";
import { gist } from "./stepWords";

interface Props {
  id: string;
  step: Step;
  label: string;
  left: number;
  width: number;
  chosen: boolean;
  onChoose: () => void;
  onSwitch: (enabled: boolean) => void;
  onRemove: () => void;
}

/** Head of a step's column: its name opens it, the grip moves it, the switch turns it off. */
export function ColumnHead({ id, step, label, left, width, chosen, ...acts }: Props) {
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
            if (event.key === "Delete" || event.key === "Backspace") acts.onRemove();
          }}
          sx={{ px: 1, height: 24, borderRadius: 1 }}
        >
          <Typography
            variant="body2" noWrap
            sx={{
              fontWeight: chosen ? 750 : 650, maxWidth: width - 30,
              color: step.enabled ? colours.ink : colours.muted,
            }}
          >
            {label}
          </Typography>
        </ButtonBase>
      </Box>
      <Box sx={{ display: "flex", alignItems: "center", height: 24 }}>
        <Switch
          checked={step.enabled} onChange={(event) => acts.onSwitch(event.target.checked)}
          slotProps={{ input: { "aria-label": `${label} on` } }}
        />
        <Typography variant="caption" color="textSecondary" noWrap>
          {gist(step)}
        </Typography>
      </Box>
    </Box>
  );
}
