import { queryOptions } from "@tanstack/react-query";
import { client, unwrap } from "../../api";

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: () => unwrap(client.GET("/api/v1/session")),
});
