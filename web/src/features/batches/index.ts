export { BatchesPage } from "./BatchesPage";
export { BatchPage } from "./BatchPage";
export { usePreview, useStartBatch } from "./api";
export { asBody, emptyOrder, filled, type Order } from "./order";
export { TagFields } from "./TagFields";
