export { BedPage } from "./BedPage";
