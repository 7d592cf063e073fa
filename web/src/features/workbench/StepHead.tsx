import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

import type { Params, Step, StepType } from "../../api/types";
import { SavedSettingsMenu } from "./SavedSettingsMenu";

interface Props {
  step: Step;
  type: StepType;
  onSet: (params: Params) => void;
  words?: string | undefined;
  children?: ReactNode;
}

/** What a step is called, what it does, and settings to start from. */
export function StepHead({ step, type, onSet, words, children }: Props) {
  const { colours } = useTheme();
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 3, mb: 1 }}>
      <Typography variant="h2">{type.label}</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }} noWrap title={words}>
        {words ?? type.summary}
        {type.provided_by && ` (${type.provided_by.package} ${type.provided_by.version})`}
      </Typography>
      {children}
      <Box sx={{ width: 22, height: 4, borderRadius: 2, backgroundColor: colours.usual, flexShrink: 0 }} />
      <Typography variant="caption" color="textSecondary" noWrap>usual range</Typography>
      <SavedSettingsMenu step={step} type={type} onSet={onSet} />
    </Box>
  );
}
