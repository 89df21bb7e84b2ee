import { Button, Text } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { client, unwrap } from "../../api";
import { FilePick } from "../site/FilePick";
import { Empty, Refused } from "./States";
import { useSignOut } from "./useSignOut";

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

export function NoSitePage() {
  const create = useCreateSite();
  const signOut = useSignOut();
  return (
    <main>
      <Empty title="No site yet">
        <Text>
          A site is a lawn with its zones. Open a site document (docs/formats/site.md describes it; site.example.json is
          one) and it becomes your first site.
        </Text>
        <FilePick label="Open a site document" accept=".json,application/json" onText={(text) => create.mutate(text)} />
        <Refused error={create.error} />
        <Button variant="subtle" onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </Empty>
    </main>
  );
}
