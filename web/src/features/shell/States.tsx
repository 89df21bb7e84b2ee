// Loading, failure and emptiness, drawn the same everywhere.
import { Alert, Button, Skeleton, Stack, Text } from "@mantine/core";
import type { ReactNode } from "react";
import { ApiFailure } from "../../api";

export function Loading({ what }: { what: string }) {
  return (
    <Stack role="status" aria-label={`Loading ${what}`} gap="sm" p="md">
      <Text className="quiet">Loading {what} …</Text>
      {[1, 2, 3, 4, 5].map((row) => (
        <Skeleton key={row} height={44} />
      ))}
    </Stack>
  );
}

type Answer = { error: Error | null; data: unknown };

/** What keeps a page from being shown: what was asked for and refused, or did not come. What is there already stays while the server is away: on the lawn
 * connections come and go. */
export function failure(...answers: Answer[]): Error | null {
  const isAway = (error: Error) => error instanceof ApiFailure && [0, 429, 503].includes(error.status);
  const fails = answers.find(({ error, data }) => error && !(data !== undefined && isAway(error)));
  return fails?.error ?? null;
}

export function Failed({ message, retry }: { message: string; retry?: () => void }) {
  return (
    <main style={{ padding: "1rem" }}>
      <Alert color="clay" variant="outline" role="alert" title="This did not work">
        <Text mb="sm">{message}</Text>
        {retry ? (
          <Button variant="outline" onClick={retry}>
            Try again
          </Button>
        ) : (
          <Button component="a" href="/" variant="outline">
            Back to the start
          </Button>
        )}
      </Alert>
    </main>
  );
}

/** What the server said of a request that it refused; nothing without one. */
export function Refused({ error, children }: { error: Error | null; children?: ReactNode }) {
  if (!error) return null;
  return (
    <Alert color="clay" variant="outline" role="alert">
      {error.message}
      {children}
    </Alert>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Stack align="flex-start" p="md" gap="sm" maw={560}>
      <h1>{title}</h1>
      {children}
    </Stack>
  );
}
