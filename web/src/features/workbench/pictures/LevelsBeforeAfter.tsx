import type { PictureProps } from "../steps/view";
import { Caption } from "./Caption";
import { LevelsPicture, type LevelMark } from "./LevelsPicture";

/** How often each level occurs before and after a step: what every step can show. */
export function LevelsBeforeAfter({ picture, label, width, height, marks = [] }: PictureProps & { marks?: LevelMark[] }) {
  return (
    <>
      <Caption text="How often the passage has each level, dBFS" />
      <LevelsPicture levels={picture.levels} width={width} height={height - 20} name={label} marks={marks} />
    </>
  );
}
