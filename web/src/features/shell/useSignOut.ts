import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { client, unwrap } from "../../api";

export function useSignOut() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/session")),
    onSuccess: async () => {
      await navigate({ to: "/sign-in", search: {} });
      queries.clear();
    },
  });
}
