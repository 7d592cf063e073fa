import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import LinearProgress from "@mui/material/LinearProgress";
import { useTheme } from "@mui/material/styles";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { memo } from "react";
import { Link } from "react-router";

import type { Recording } from "../../api/types";
import { formatDb, formatPeak, formatTime, shownClearance } from "../../pictures/figures";
import { CautionIcon } from "../../pictures/icons";
import { LevelLine } from "../../pictures/LevelLine";
import { withChosen } from "./listOrder";
import { progressWords } from "./progressWords";
import { RetryMeasuring } from "./RetryMeasuring";
import { SmallWaveform } from "./SmallWaveform";

interface Props {
  recording: Recording;
  selected: boolean;
  onChoose: (change: (chosen: ReadonlySet<string>) => ReadonlySet<string>) => void;
}

/** One recording in the list; drawn anew when something of its own changes, for there may be hundreds. */
export const RecordingRow = memo(function RecordingRow({ recording, selected, onChoose }: Props) {
  const { colours } = useTheme();
  const measures = recording.measures;
  const ready = recording.state === "done";
  const tooHot = (measures?.true_peak_dbtp ?? -99) > 0;
  return (
    <TableRow
      sx={{
        height: 74,
        backgroundColor: selected ? colours.card : "transparent",
        "& td": { borderColor: colours.rule, py: 1, px: 2, fontSize: 14 },
      }}
    >
      <TableCell padding="none">
        <Checkbox
          checked={selected}
          disabled={!ready && recording.state !== "failed"}
          onChange={(event) => onChoose(withChosen(recording.id, event.target.checked))}
          slotProps={{ input: { "aria-label": `Choose ${recording.name}` } }}
        />
      </TableCell>
      <TableCell sx={{ maxWidth: 240 }}>
        <Typography
          variant="h3"
          component={Link}
          to={`/recordings/${recording.id}`}
          title={recording.name}
          sx={{
            color: "inherit", textDecoration: "none", overflow: "hidden", display: "-webkit-box",
            WebkitLineClamp: 2, WebkitBoxOrient: "vertical", "&:hover": { textDecoration: "underline" },
          }}
        >
          {recording.name}
        </Typography>
        <Typography variant="body2">
          {recording.duration_s !== null && formatTime(recording.duration_s)}{" "}
          <Box component="span" sx={{ color: colours.muted, ml: 1 }}>
            {[recording.group, recording.take != null && `take ${recording.take}`, recording.label]
              .filter(Boolean)
              .join(", ")}
          </Box>
        </Typography>
      </TableCell>
      {ready ? (
        <>
          <TableCell>
            <SmallWaveform recording={recording} />
          </TableCell>
          <TableCell align="right">
            <Box component="span" sx={tooHot ? { color: colours.fail, fontWeight: 700 } : {}}>
              {tooHot && <CautionIcon size={14} />} {formatPeak(measures?.true_peak_dbtp)}
            </Box>
          </TableCell>
          <TableCell align="right">{formatDb(measures?.voice_level_dbfs)}</TableCell>
          <TableCell align="right">{formatDb(measures?.noise_floor_dbfs)}</TableCell>
          <TableCell>
            <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
              <Box component="span" sx={{ fontWeight: 680, width: 40, fontSize: 15 }}>
                {formatDb(shownClearance(measures))}
              </Box>
              <LevelLine
                side="before"
                width={84}
                noise={measures?.noise_floor_dbfs}
                voice={measures?.voice_level_dbfs}
                peak={measures?.true_peak_dbtp}
              />
            </Box>
          </TableCell>
          <TableCell align="right">
            <Findings recording={recording} />
          </TableCell>
          <TableCell>
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
              {recording.recipe_name ?? (recording.chain.length > 0 ? "Own chain" : "No chain yet")}
            </Typography>
            <Typography variant="caption" color="textSecondary">
              {recording.latest_run ? "has a result" : "not run yet"}
            </Typography>
          </TableCell>
        </>
      ) : (
        <TableCell colSpan={7}>
          <Intake recording={recording} />
        </TableCell>
      )}
    </TableRow>
  );
});

/** How many findings the intake has, their words on hover. */
function Findings({ recording }: { recording: Recording }) {
  const { colours } = useTheme();
  const count = recording.advice.length;
  if (count === 0) return <span style={{ color: colours.muted }}>none</span>;
  return (
    <Tooltip
      describeChild
      title={
        <Box component="ul" sx={{ m: 0, pl: 4 }}>
          {recording.advice.map((finding) => (
            <li key={finding.code}>{finding.text}</li>
          ))}
        </Box>
      }
    >
      <Box
        component={Link} to={`/recordings/${recording.id}`}
        aria-label={`${count} ${count === 1 ? "finding" : "findings"}`}
        sx={{ color: colours.caution, fontWeight: 650, textDecoration: "none", whiteSpace: "nowrap", py: 1 }}
      >
        <CautionIcon size={14} /> {count}
      </Box>
    </Tooltip>
  );
}

function Intake({ recording }: { recording: Recording }) {
  const { colours } = useTheme();
  if (recording.state === "failed") {
    return (
      <Box sx={{ display: "flex", alignItems: "center", gap: 4 }}>
        <Typography variant="body2" sx={{ color: colours.fail }}>
          <CautionIcon size={14} /> {recording.error}
        </Typography>
        <RetryMeasuring recording={recording} />
      </Box>
    );
  }
  const share = Math.round(100 * recording.progress);
  return (
    <Box sx={{ maxWidth: 320 }}>
      <Typography variant="body2">{progressWords(recording)}</Typography>
      <LinearProgress
        variant="determinate"
        value={share}
        aria-label={`Measuring ${recording.name}`}
        sx={{ height: 6, borderRadius: 3 }}
      />
    </Box>
  );
}
