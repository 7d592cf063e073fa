import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";

import { formatDb, formatTime } from "../../../pictures/figures";
import { actOn, lengthMs, STATE_WORDS, type RepairMark } from "./marks";

/** More would make the page slow; the marks show all. */
const MOST_ROWS = 200;

interface Props {
  marks: readonly RepairMark[];
  labelOf: (type: string) => string;
  onAct: (mark: RepairMark) => void;
  onGoTo: (mark: RepairMark) => void;
}

/** All events in order of time: when, which kind, how long, how strong, and what can be done about each. */
export function RepairList({ marks, labelOf, onAct, onGoTo }: Props) {
  const { colours } = useTheme();
  return (
    <Box sx={{ maxHeight: 190, overflowY: "auto", mt: 1, borderTop: `1px solid ${colours.rule}` }}>
      <Box component="table" aria-label="Events of repairs" sx={{ borderCollapse: "collapse", fontSize: 13, "& td": { py: 0.5, pr: 4 } }}>
        <tbody>
          {marks.slice(0, MOST_ROWS).map((mark) => (
            <tr key={`${mark.type} ${mark.start_s} ${mark.state}`}>
              <td>
                <ButtonBase sx={{ fontSize: 13, fontWeight: 600, fontFamily: "inherit", textDecoration: "underline" }} onClick={() => onGoTo(mark)}>
                  {formatTime(mark.start_s, 2)}
                </ButtonBase>
              </td>
              <td>{labelOf(mark.type)}</td>
              <td>{lengthMs(mark)} ms</td>
              <td>{mark.strengthDb === null ? "" : `${formatDb(mark.strengthDb)} dB`}</td>
              <td>{STATE_WORDS[mark.state]}</td>
              <td>
                <Button size="small" variant="text" sx={{ minWidth: 0, px: 1 }} aria-label={`${actOn(mark)}: ${formatTime(mark.start_s, 2)}`} onClick={() => onAct(mark)}>
                  {actOn(mark)}
                </Button>
              </td>
            </tr>
          ))}
          {marks.length > MOST_ROWS && <tr><td colSpan={6}>{marks.length - MOST_ROWS} more are marked under the recording.</td></tr>}
        </tbody>
      </Box>
    </Box>
  );
}
