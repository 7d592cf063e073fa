export { useBeds, useBringBed, useDeleteBed } from "./api";
