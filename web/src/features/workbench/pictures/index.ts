export { asBand, asRecord, type Band } from "./bands";
export { EqBands } from "./EqBands";
export { EqPicture } from "./EqPicture";
export { StepPictureView } from "./StepPictureView";
export { WorkPicture, type LoopPlace } from "./WorkPicture";
