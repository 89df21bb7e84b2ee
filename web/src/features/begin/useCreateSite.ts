import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { client, unwrap } from "../../api";

/** A new site of a site document. */
export function useCreateSite() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (text: string) =>
      // The document goes as it is: the server names the line that does not hold.
      unwrap(client.POST("/api/v1/sites", { body: text as never, bodySerializer: (b) => b as unknown as string })),
    onSuccess: async (site) => {
      await queries.invalidateQueries({ queryKey: ["me"] });
      await navigate({ to: "/site/$site/settings", params: { site: String(site.id) } });
    },
  });
}
