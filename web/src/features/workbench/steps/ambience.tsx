import { Caption } from "../pictures/Caption";
import { DecayPicture } from "../pictures/DecayPicture";
import { LevelsBeforeAfter } from "../pictures/LevelsBeforeAfter";
import { asNumber, shown, type PictureProps, type StepView } from "./view";

function Picture(props: PictureProps) {
  const { picture, width, height } = props;
  if (!picture.decay) return <LevelsBeforeAfter {...props} />;
  return (
    <>
      <Caption text="How the room rings on, dB" />
      <DecayPicture decay={picture.decay} width={width} height={height - 20} />
    </>
  );
}

export const view: StepView = { gist: (p) => `${shown(100 * (asNumber(p.mix) ?? 0))} % room`, Picture };
