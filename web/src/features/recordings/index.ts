export { withChosen } from "./listOrder";
export { RecordingsPage } from "./RecordingsPage";
export { awayKeys, recordingKeys, useRecording, useRecordingOverview, useRecordings, useTakeBack } from "./api";
export { UploadsProvider } from "./UploadsProvider";
export { UploadsUnderWay } from "./UploadsUnderWay";
