import type { PictureProps } from "../steps/view";
import { Caption } from "./Caption";
import { CurvePicture } from "./CurvePicture";
import { LevelsBeforeAfter } from "./LevelsBeforeAfter";

interface Props extends PictureProps {
  caption: string;
  thresholdDbfs?: number | undefined;
  guardDbfs?: number | undefined;
}

/** Level out over level in; the levels alone where there is no such curve. */
export function CurveBeforeAfter({ caption, thresholdDbfs, guardDbfs, ...props }: Props) {
  const { picture, width, height, label } = props;
  if (!picture.curve) return <LevelsBeforeAfter {...props} />;
  return (
    <>
      <Caption text={caption} />
      <CurvePicture
        curve={picture.curve} levels={picture.levels.before} lowestDbfs={picture.levels.lowest_dbfs} width={width} height={height - 20} name={label}
        thresholdDbfs={thresholdDbfs} guardDbfs={guardDbfs}
      />
    </>
  );
}
