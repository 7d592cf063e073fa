export { RecordingsPage } from "./RecordingsPage";
export { recordingKeys, useRecording, useRecordingOverview, useRecordings } from "./api";
