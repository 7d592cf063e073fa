export { useLive, type Live } from "./useLive";
