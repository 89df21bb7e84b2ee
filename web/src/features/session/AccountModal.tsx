// One's own account: a new password, and signing out everywhere.
import { Button, Modal, PasswordInput, Stack, Text } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { type ApiFailure, client, unwrap } from "../../api";
import { Refused } from "../shell/States";

export function AccountModal({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const [current, setCurrent] = useState("");
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const change = useMutation({
    mutationFn: () => unwrap(client.PUT("/api/v1/session/password", { body: { current, password } })),
    onSuccess: () => {
      notifications.show({ message: "Password changed; you are signed out everywhere else." });
      setCurrent("");
      setPassword("");
      onClose();
    },
  });
  const everywhere = useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/v1/sessions")),
    onSuccess: async () => {
      await navigate({ to: "/sign-in", search: {} });
      queries.clear();
    },
  });
  const problem = (change.error as ApiFailure | null)?.problem;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate();
  };
  return (
    <Modal opened={opened} onClose={onClose} title="Your account" closeButtonProps={{ "aria-label": "Close" }}>
      <form onSubmit={submit} noValidate>
        <Stack>
          <h3>New password</h3>
          <PasswordInput
            label="Current password"
            autoComplete="current-password"
            value={current}
            error={change.error && problem?.status === 403 ? change.error.message : undefined}
            onChange={(e) => setCurrent(e.currentTarget.value)}
            visibilityToggleButtonProps={{ "aria-label": "Show the current password" }}
          />
          <PasswordInput
            label="New password"
            description="At least 10 characters; a short sentence is a good one."
            autoComplete="new-password"
            value={password}
            error={problem?.field === "password" ? problem.detail : undefined}
            onChange={(e) => setPassword(e.currentTarget.value)}
            visibilityToggleButtonProps={{ "aria-label": "Show the new password" }}
          />
          {change.error && problem?.status !== 403 && problem?.status !== 422 && <Refused error={change.error} />}
          <Button type="submit" loading={change.isPending}>
            Change the password
          </Button>
        </Stack>
      </form>
      <Stack mt="lg">
        <h3>Other devices</h3>
        <Text>A phone was lost? Sign out everywhere, here too.</Text>
        <Refused error={everywhere.error} />
        <Button variant="outline" loading={everywhere.isPending} onClick={() => everywhere.mutate()}>
          Sign out everywhere
        </Button>
      </Stack>
    </Modal>
  );
}
