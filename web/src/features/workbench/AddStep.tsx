import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { StepType } from "../../api/types";
import { PlusIcon } from "../../pictures/icons";

interface Props {
  types: StepType[];
  left: number;
  name: string;
  /** Seen only while the pointer or the focus is on it. */
  quiet?: boolean;
  onAdd: (type: StepType) => void;
}

/** A plus between two columns, or at the end. */
export function AddStep({ types, left, name, quiet = false, onAdd }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const size = quiet ? 24 : 30;
  return (
    <>
      <IconButton
        aria-label={name} aria-haspopup="menu" title={name} data-add-step={quiet ? undefined : "end"}
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{
          position: "absolute", top: quiet ? -2 : 12, left: left - size / 2, width: size, height: size,
          p: 0, zIndex: 2, backgroundColor: colours.paper, border: `1px dashed ${colours.inputBorder}`,
          opacity: quiet && anchor === null ? 0 : 1,
          "&:hover, &:focus-visible": { opacity: 1, backgroundColor: colours.pith },
        }}
      >
        <PlusIcon size={14} />
      </IconButton>
      {/* Gone at once: a list that fades holds the focus, and the next keys with it. */}
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} transitionDuration={{ enter: 150, exit: 0 }}>
        {types.map((type) => (
          <MenuItem
            key={type.type}
            onClick={() => {
              // A list that is closing still holds the focus: Enter pressed twice must not add twice.
              if (anchor === null) return;
              setAnchor(null);
              onAdd(type);
            }}
          >
            <Box>
              <Typography sx={{ fontWeight: 650 }}>{type.label}</Typography>
              <Typography variant="caption" color="textSecondary">
                {type.summary}
              </Typography>
            </Box>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
