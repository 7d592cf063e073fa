import { useTheme } from "@mui/material/styles";

import type { StepPicture } from "../../../api/types";
import { formatDb } from "../../../pictures/figures";
import { MARGINS, Plot } from "../../../pictures/Plot";
import { areaPath, linear } from "../../../pictures/scales";

interface Props {
  decay: NonNullable<StepPicture["decay"]>;
  width: number;
  height: number;
}

/** How the room rings on after a click. */
export function DecayPicture({ decay, width, height }: Props) {
  const { colours } = useTheme();
  const lengthS = decay.levels_db.length * decay.bin_s;
  const bottom = height - MARGINS.bottom;
  const x = linear([0, lengthS], [MARGINS.left, width - MARGINS.right]);
  const y = linear([-60, 0], [bottom, MARGINS.top]);
  const times = decay.levels_db.map((_, i) => (i + 0.5) * decay.bin_s);
  const every = lengthS > 1 ? 0.5 : lengthS > 0.4 ? 0.2 : 0.1;
  const ticks = Array.from({ length: Math.floor(lengthS / every) + 1 }, (_, i) => ({ at: i * every, text: `${(i * every).toFixed(1)} s` }));
  const gone = decay.levels_db.findLastIndex((db) => db > -60);
  return (
    <Plot
      width={width} height={height} x={x} y={y} xTicks={ticks}
      yTicks={[0, -20, -40, -60].map((at) => ({ at, text: formatDb(at).replace(".0", "") }))}
      words={`The room rings on for ${((gone + 1) * decay.bin_s).toFixed(2)} s until 60 dB are gone`}
    >
      <path d={areaPath(times, decay.levels_db.map((db) => Math.max(-60, db)), x, y, bottom)} fill={colours.after} opacity={0.3} />
    </Plot>
  );
}
