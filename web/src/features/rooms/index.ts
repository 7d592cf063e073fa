export { RoomTonesPage } from "./RoomTonesPage";
export { useRoomTones } from "./api";
