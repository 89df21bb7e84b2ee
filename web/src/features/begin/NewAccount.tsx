// An account for who has none: the first of all, with the code that the server printed, or one more where anybody may.
import { Button, Paper, PasswordInput, Stack, Text, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { ApiFailure } from "../../api";
import { Refused } from "../shell/States";
import { useNewAccount } from "./queries";

export function NewAccount({ first, className, onDone }: { first: boolean; className?: string; onDone: () => void }) {
  const [form, setForm] = useState({ code: "", name: "", email: "", password: "" });
  const make = useNewAccount();
  const field = make.error instanceof ApiFailure ? make.error.problem?.field : undefined;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    make.mutate(first ? form : { ...form, code: null }, { onSuccess: onDone });
  };
  const input = (name: keyof typeof form) => ({
    value: form[name],
    required: true,
    error: field === name && make.error?.message,
    onChange: (e: { currentTarget: HTMLInputElement }) => {
      const { value } = e.currentTarget;
      setForm((f) => ({ ...f, [name]: value }));
    },
  });
  const title = first ? "The first account" : "A new account";
  return (
    <Paper
      component="form"
      onSubmit={submit}
      withBorder
      p="lg"
      {...(className ? { className } : {})}
      aria-label={title}
    >
      <Stack>
        <h2>{title}</h2>
        {first && <Text>Nobody has an account here yet. Whoever started the server has a code for the first.</Text>}
        {!field && <Refused error={make.error} />}
        {first && (
          <TextInput
            label="Code"
            description="eight letters and digits, where the server was started"
            autoComplete="one-time-code"
            autoCapitalize="characters"
            {...input("code")}
          />
        )}
        <TextInput label="Your name" autoComplete="name" {...input("name")} />
        <TextInput label="E-mail address" type="email" autoComplete="username" {...input("email")} />
        <PasswordInput
          label="Password"
          description="a short sentence is a good one"
          autoComplete="new-password"
          visibilityToggleButtonProps={{ "aria-label": "Show the password" }}
          {...input("password")}
        />
        <Button type="submit" loading={make.isPending} size="md">
          Make the account
        </Button>
      </Stack>
    </Paper>
  );
}
