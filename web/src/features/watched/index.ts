export { WatchedFolders } from "./WatchedFolders";
