import { QueryClient } from "@tanstack/react-query";
import { ApiFailure } from "./api";

/** Asks again for what takes long to compute: of a kind a person has one under way, so that another page of theirs may have ended this one. */
export const askedAgain = (count: number, error: Error) =>
  count < 5 && error instanceof ApiFailure && [0, 429, 503].includes(error.status);

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      // What the server refused it refuses again; a lost connection may come back, and a busy server says so.
      retry: (count, error) => count < 2 && error instanceof ApiFailure && [0, 503].includes(error.status),
    },
  },
});

// For who drives the page: while anything is asked for, what is drawn may still move.
queryClient.getQueryCache().subscribe(() => {
  document.body.toggleAttribute("data-fetching", queryClient.isFetching() > 0);
});
