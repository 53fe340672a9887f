import { useQuery } from "@tanstack/react-query";
import { api, read, type Schemas } from "../../api/client";

export type Place = Schemas["PlaceView"];
export type PlaceFile = Schemas["FileView"];

/** placeTopics are the lists that a change to a place is seen in. */
export const placeTopics = ["places", "sites", "matches", "listings", "runs"];

export const usePlaces = () => useQuery({ queryKey: ["places"], queryFn: () => read(api.GET("/api/places")) });
