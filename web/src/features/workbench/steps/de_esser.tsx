import { formatHz } from "../../../pictures/figures";
import { SpectrumLegend, SpectrumPicture } from "../pictures/SpectrumPicture";
import { asNumber, shown, type PictureProps, type StepView } from "./view";

function Picture({ step, picture, width, height }: PictureProps) {
  const [low, high] = [asNumber(step.params.low_hz) ?? 4000, asNumber(step.params.high_hz) ?? 9000];
  return (
    <>
      <SpectrumLegend />
      <SpectrumPicture picture={picture} width={width} height={height - 24} words={`Spectra of the passage; it works from ${formatHz(low)} to ${formatHz(high)}`}>
        {(x, bottom) => <rect x={x(low)} width={Math.max(2, x(high) - x(low))} y={8} height={bottom - 8} fill="currentColor" opacity={0.09} />}
      </SpectrumPicture>
    </>
  );
}

export const view: StepView = {
  gist: (p) => `max ${shown(p.max_reduction_db)} dB`,
  labels: { typical_reduction_db: "Typical reduction of the band", max_reduction_db: "Max reduction of the band" },
  seldom: ["attack_ms", "release_ms"],
  isWide: true,
  drawsWork: true,
  Picture,
};
