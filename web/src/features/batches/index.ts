export { BatchesPage } from "./BatchesPage";
export { BatchPage } from "./BatchPage";
export { useBatch, useBatches, usePreview, useStartBatch } from "./api";
export { asBeforeForOne, asBody, emptyOrder, filled, type Order } from "./order";
export { SetUpAs } from "./SetUpAs";
export { TagFields } from "./TagFields";
