// A change of a site: everything of the site is asked again once it is done.
import { useMutation, useQueryClient } from "@tanstack/react-query";

/** `onSuccess` is told even where the page that asked is drawn anew by what it changed. */
export function useChange<Input, Output>(
  site: string,
  mutationFn: (input: Input) => Promise<Output>,
  onSuccess?: (output: Output) => void,
) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn,
    ...(onSuccess ? { onSuccess } : {}),
    onSettled: () => queries.invalidateQueries({ queryKey: ["site", site] }),
  });
}
