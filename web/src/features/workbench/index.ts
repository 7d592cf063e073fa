export { SettingField } from "./SettingField";
export { WorkbenchPage } from "./WorkbenchPage";
