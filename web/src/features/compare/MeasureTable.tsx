import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Tooltip from "@mui/material/Tooltip";

import type { Bound, Target } from "../../api/types";
import { howMeasured } from "../../pictures/Figure";
import { formatChange, formatDb } from "../../pictures/figures";
import { CheckIcon, CrossIcon } from "../../pictures/icons";
import type { Row } from "./measureRows";

const words = ({ low, high }: Bound) =>
  low != null && high != null ? `${formatDb(low)} to ${formatDb(high)}` : high != null ? `at most ${formatDb(high)}` : `at least ${formatDb(low)}`;

/** As it is shown, so that the figure and the mark agree. */
function isMet(value: number | null, { low, high }: Bound): boolean | null {
  if (value === null) return null;
  const shown = Math.round(value * 10) / 10;
  return (low == null || shown >= low) && (high == null || shown <= high);
}

/** Measures before and after, their difference, and what the target wants. */
export function MeasureTable({ rows, target }: { rows: readonly Row[]; target: Target | null }) {
  const { colours } = useTheme();
  const bounds = target?.bounds ?? {};
  return (
    <Box component="table" aria-label="Measures" sx={{ borderCollapse: "collapse", width: "100%", "& td, & th": { py: 1, textAlign: "right", fontVariantNumeric: "tabular-nums" }, "& th:first-of-type, & td:first-of-type": { textAlign: "left" }, "& tbody tr": { borderTop: `1px solid ${colours.rule}` } }}>
      <thead>
        <tr>
          <th scope="col">Measure</th>
          <Box component="th" scope="col" sx={{ color: colours.beforeText }}>Before</Box>
          <Box component="th" scope="col" sx={{ color: colours.afterText }}>After</Box>
          <th scope="col">Difference</th>
          {target && <th scope="col" title={target.name}>Target</th>}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => {
          const bound = bounds[row.name];
          const met = bound ? isMet(row.after, bound) : null;
          return (
            <tr key={row.name}>
              <td>
                <Tooltip title={howMeasured[row.name]} describeChild placement="top-start">
                  <span tabIndex={0}>{row.label}, {row.unit}</span>
                </Tooltip>
              </td>
              <td>{formatDb(row.before)}</td>
              <td><b>{formatDb(row.after)}</b></td>
              <td>{row.change === null ? "–" : formatChange(row.change)}</td>
              {target && (
                <Box component="td" sx={{ whiteSpace: "nowrap", fontSize: 13, color: met === false ? colours.fail : met ? colours.pass : colours.muted }}>
                  {bound && <>{met === null ? null : met ? <CheckIcon size={12} /> : <CrossIcon size={12} />} {words(bound)}<span style={{ position: "absolute", left: -9999 }}>{met === false ? ", not met" : met ? ", met" : ""}</span></>}
                </Box>
              )}
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}
