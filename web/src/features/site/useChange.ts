// A change of a site: everything of the site is asked again once it is done.
import { useMutation, useQueryClient } from "@tanstack/react-query";

export function useChange<Input, Output>(site: string, mutationFn: (input: Input) => Promise<Output>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn,
    onSettled: () => queries.invalidateQueries({ queryKey: ["site", site] }),
  });
}
