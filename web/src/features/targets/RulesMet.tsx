import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Rule } from "../../api/types";
import { CheckIcon, CrossIcon } from "../../pictures/icons";
import { RuleList } from "./RuleList";

interface Props {
  rules: readonly Rule[];
  targetName: string | null | undefined;
  /** Whose file was judged. */
  of: string;
}

/** How many rules a finished file meets; the rules on a press. */
export function RulesMet({ rules, targetName, of }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (rules.length === 0) return <>–</>;
  const met = rules.filter((rule) => rule.is_met === true).length;
  const all = met === rules.length;
  return (
    <>
      <Button
        size="small" variant="text" onClick={(event) => setAnchor(event.currentTarget)} aria-label={`Target of ${of}: ${met} of ${rules.length} met`}
        sx={{ color: all ? colours.pass : colours.fail, px: 1, minWidth: 0, whiteSpace: "nowrap" }} startIcon={all ? <CheckIcon size={14} /> : <CrossIcon size={14} />}
      >
        {met} of {rules.length} met
      </Button>
      <Popover open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)} anchorOrigin={{ vertical: "bottom", horizontal: "right" }} transformOrigin={{ vertical: "top", horizontal: "right" }} slotProps={{ paper: { sx: { p: 4, width: 440, borderRadius: "14px" }, role: "dialog", "aria-label": "Target" } }}>
        <Typography variant="h3" component="h2" sx={{ mb: 2 }}>{targetName}</Typography>
        <RuleList rules={rules} />
      </Popover>
    </>
  );
}
