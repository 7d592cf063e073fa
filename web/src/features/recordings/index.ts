export { RecordingsPage } from "./RecordingsPage";
export { recordingKeys, useRecordingOverview, useRecordings } from "./api";
