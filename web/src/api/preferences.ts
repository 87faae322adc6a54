import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { act } from "./acts";
import { api, body, type Shapes } from "./client";

export type Preferences = Shapes["PreferencesShape"];

export const preferencesQuery = queryOptions({
  queryKey: ["preferences"],
  queryFn: async () => body(await api.GET("/api/account/preferences")),
  staleTime: Infinity,
});

/** One's own preferences, and changing them. */
export function usePreferences() {
  const client = useQueryClient();
  const { data } = useQuery(preferencesQuery);
  const set = async (changes: Partial<Preferences>) => {
    const now = await act<Preferences>("PATCH", "/api/account/preferences", changes);
    client.setQueryData(preferencesQuery.queryKey, now);
    return now;
  };
  return { preferences: data, set };
}
