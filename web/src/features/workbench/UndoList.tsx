import IconButton from "@mui/material/IconButton";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";

import { DownIcon } from "../../pictures/icons";

const MOST_SHOWN = 20;

/** Everything that can be taken back, the last change first; a press takes back down to there. */
export function UndoList({ changes, onUndo }: { changes: readonly string[]; onUndo: (count: number) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (changes.length < 2) return null;
  return (
    <>
      <IconButton size="small" aria-label="All changes" aria-haspopup="menu" title="All changes, to take back several at once" onClick={(event) => setAnchor(event.currentTarget)} sx={{ ml: -1.5, width: 22 }}>
        <DownIcon size={12} />
      </IconButton>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {changes.slice(0, MOST_SHOWN).map((change, i) => (
          <MenuItem
            key={i}
            onClick={() => {
              setAnchor(null);
              onUndo(i + 1);
            }}
          >
            Undo {i > 0 ? `down to: ${change}` : change}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
