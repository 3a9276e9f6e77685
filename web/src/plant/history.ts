import { queryOptions } from "@tanstack/react-query";
import { api, asked } from "../api/client";

/** How a channel has behaved. */
export const historyQuery = (channel: string) =>
  queryOptions({
    queryKey: ["history", channel],
    queryFn: () => asked(api.GET("/api/channels/{channel_id}/history", { params: { path: { channel_id: channel } } })),
  });
