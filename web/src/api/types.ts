import type { components } from "./schema";

type Schemas = components["schemas"];

export type Recording = Schemas["Recording"];
export type Run = Schemas["Run"];
export type Recipe = Schemas["Recipe"];
export type Batch = Schemas["Batch"];
export type WholeBatch = Schemas["WholeBatch"];
export type BatchFile = Schemas["BatchFile"];
export type RoomTone = Schemas["RoomTone"];
export type Measures = Schemas["Measures"];
export type Levels = Schemas["Levels"];
export type Point = Schemas["Point"];
export type Finding = Schemas["Finding"];
export type Proposal = Schemas["Proposal"];
export type Correction = Schemas["Correction"];
export type Overview = Schemas["Overview"];
export type Spectrogram = Schemas["Spectrogram"];
export type Figures = Schemas["Figures"];
export type FoundRoomTone = Schemas["FoundRoomTone"];
export type RoomProfile = Schemas["RoomProfile"];
export type KeptRoomTone = Schemas["KeptRoomTone"];
export type StartedUpload = Schemas["Upload"];
export type StepType = Schemas["StepType"];
export type Setting = Schemas["Setting"];
export type JobState = Schemas["JobStateEnum"];

/** A setting's value: plain JSON, checked by the server. */
export type SettingValue = number | string | boolean | number[] | SettingRecord[];
export type SettingRecord = Record<string, number | string | boolean>;
export type Params = Record<string, SettingValue>;

/** A step of a chain, as in the recipe document. */
export interface Step {
  type: string;
  enabled: boolean;
  params: Params;
}
export type PassageHead = Schemas["PassageHead"];
export type PassageTail = Schemas["PassageTail"];
export type LivePoint = Schemas["LivePoint"];
export type StepPicture = Schemas["StepPicture"];
export type SavedSettings = Schemas["SavedSettings"];
export type Target = Schemas["Target"];
export type Bound = Schemas["Bound"];
export type BoundedMeasure = Schemas["Bounded"];
export type FileWish = Schemas["FileWish"];
export type Rule = Schemas["Rule"];
export type Delivery = Schemas["Delivery"];
export type StartBatch = Schemas["StartBatchRequest"];
export type PlannedDelivery = Schemas["Planned"];
export type RecipeUse = Schemas["Use"];
/** A target as it is written; the server adds the rest. */
export type TargetBody = Pick<Target, "name"> & Partial<Pick<Target, "description" | "bounds" | "file" | "intro" | "outro">>;
export type EndPiece = Schemas["EndPiece"];
export type TimeSeries = Schemas["TimeSeries"];
export type ToldSide = Schemas["ToldSide"];
export type Tasting = Schemas["Tasting"];
export type Bed = Schemas["Bed"];
export type Laid = Schemas["Laid"];
export type Mix = Schemas["Mix"];
export type StartMix = Schemas["StartMixRequest"];
export type Entry = Schemas["Entry"];
export type Space = Schemas["Space"];
export type Taken = Schemas["Taken"];
export type PutAway = Schemas["PutAway"];
export type Preferences = Schemas["Preferences"];
export type WatchedFolder = Schemas["WatchedFolder"];
export type WatchedFile = Schemas["WatchedFile"];
