export { withChosen } from "./listOrder";
export { RecordingsPage } from "./RecordingsPage";
export { awayKeys, recordingKeys, useProposal, useRecording, useRecordingOverview, useRecordings, useTakeBack } from "./api";
export { progressWords } from "./progressWords";
export { RetryMeasuring } from "./RetryMeasuring";
export { UploadsProvider } from "./UploadsProvider";
export { UploadsUnderWay } from "./UploadsUnderWay";
