import type { Schemas } from "../../api/client";
import { useListPlaces } from "../../api/operations";

export type Place = Schemas["PlaceView"];
export type PlaceFile = Schemas["FileView"];

/** placeTopics are the lists that a change to a place is seen in. */
export const placeTopics = ["places", "sites", "matches", "listings", "runs"];

export const usePlaces = () => useListPlaces();
