import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";

import type { Rule } from "../../api/types";
import { CheckIcon, CrossIcon } from "../../pictures/icons";

/** Each rule with its figure, met or not. */
export function RuleList({ rules }: { rules: readonly Rule[] }) {
  const { colours } = useTheme();
  return (
    <Box component="table" aria-label="Rules" sx={{ borderCollapse: "collapse", width: "100%", "& td": { py: 1, pr: 4, fontSize: 13 }, "& tr + tr": { borderTop: `1px solid ${colours.rule}` } }}>
      <tbody>
        {rules.map((rule) => {
          const colour = rule.is_met === true ? colours.pass : rule.is_met === false ? colours.fail : colours.caution;
          return (
            <tr key={rule.name}>
              <td><b>{rule.label}</b></td>
              <td>{rule.wanted}</td>
              <Box component="td" sx={{ color: colour, fontWeight: 600, whiteSpace: "nowrap" }}>
                {rule.is_met === true ? <CheckIcon size={13} /> : <CrossIcon size={13} />} {rule.got}
                <span style={{ position: "absolute", left: -9999 }}>{rule.is_met === true ? ", met" : rule.is_met === false ? ", not met" : ", not known"}</span>
              </Box>
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}
