import { QueryClient } from "@tanstack/react-query";
import { ApiFailure } from "./api";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      // What the server refused it refuses again; a lost connection may come back.
      retry: (count, error) => count < 2 && error instanceof ApiFailure && error.status === 0,
    },
  },
});
