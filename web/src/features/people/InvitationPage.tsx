// What a link offers, and joining: with the account that is signed in, or with a new one.
import { Alert, Button, Paper, PasswordInput, Stack, Text, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useLocation, useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { type ApiFailure, client, type Schemas, unwrap } from "../../api";
import { meQuery } from "../session/queries";
import { ROLES } from "../session/rights";
import classes from "../session/SignInPage.module.css";
import { Failed, Loading, Refused } from "../shell/States";
import { offerQuery } from "./queries";

export function InvitationPage() {
  // After the #, so that it is never sent as an address and never logged.
  const token = useLocation({ select: (l) => l.hash });
  const offer = useQuery(offerQuery(token));
  const me = useQuery({ ...meQuery, retry: false });
  const queries = useQueryClient();
  const navigate = useNavigate();
  const accept = useMutation({
    mutationFn: async (account?: NewAccountBody) => {
      const accept = (body: Schemas["Acceptance"]) =>
        unwrap(
          client.POST("/api/v1/invitation/acceptance", { params: { header: { "Invitation-Token": token } }, body }),
        );
      if (account) {
        // Whether the address had an account already is not told: signing in shows whose it is.
        await accept({ account });
        const { email, password } = account;
        await unwrap(client.POST("/api/v1/session", { body: { email, password } }));
      }
      return accept({});
    },
    onSuccess: (joined) => {
      if (!joined) return;
      const known = new Set(me.data?.sites.map((s) => s.id));
      const site = joined.sites.find((s) => !known.has(s.id)) ?? joined.sites[0];
      queries.clear();
      queries.setQueryData(meQuery.queryKey, joined);
      if (site) navigate({ to: "/site/$site/morning", params: { site: String(site.id) } });
    },
  });
  if (offer.isPending || me.isPending) return <Loading what="the invitation" />;
  if (offer.error) {
    const gone = (offer.error as ApiFailure).status === 404;
    return (
      <Failed
        message={
          gone ? "This link was used, revoked, or is older than seven days. Ask for a new one." : offer.error.message
        }
      />
    );
  }
  const role = ROLES.find((r) => r.role === offer.data.role);
  return (
    <main className={classes.page}>
      <div className={classes.words}>
        <div>
          <h1>{offer.data.site}</h1>
          <Text size="lg" mt="sm" maw={420}>
            {offer.data.invited_by} invites {offer.data.name} to look after the watering here, as{" "}
            {role?.name.toLowerCase()}: {role?.may}.
          </Text>
        </div>
      </div>
      <Paper withBorder p="lg" className={classes.form}>
        {me.data ? (
          <Stack>
            <Text>You are signed in as {me.data.name}.</Text>
            <Refused error={accept.error} />
            <Button loading={accept.isPending} onClick={() => accept.mutate(undefined)}>
              Join as {me.data.name}
            </Button>
          </Stack>
        ) : offer.data.claimed ? (
          <Stack>
            <h2>Sign in to join</h2>
            <Text>
              An account was asked for with this link. Sign in with its address and password; you then come back here
              and join.
            </Text>
            <Link to="/sign-in" search={{ back: `/invitation#${token}` }}>
              Sign in
            </Link>
          </Stack>
        ) : (
          <NewAccount token={token} error={accept.error} busy={accept.isPending} onSubmit={accept.mutate} />
        )}
      </Paper>
    </main>
  );
}

type NewAccountBody = Schemas["NewAccount"];

type NewAccountProps = {
  token: string;
  error: Error | null;
  busy: boolean;
  onSubmit: (account: NewAccountBody) => void;
};

function NewAccount({ token, error, busy, onSubmit }: NewAccountProps) {
  const [name, setName] = useState("");
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const failure = error as ApiFailure | null;
  const problem = failure?.problem;
  const at = (field: string) => (problem?.field === `account.${field}` ? problem.detail : undefined);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onSubmit({ name, email, password });
  };
  return (
    <form onSubmit={submit} noValidate aria-label="Make an account">
      <Stack>
        <h2>Make an account</h2>
        {failure?.status === 401 ? (
          <Alert color="clay" variant="outline" role="alert">
            This address and this password do not sign in. If the address has an account, sign in with its own password;
            you then come back to this invitation.
          </Alert>
        ) : (
          error && !problem?.field && <Refused error={error} />
        )}
        <TextInput
          label="Your name"
          autoComplete="name"
          value={name}
          error={at("name")}
          onChange={(e) => setName(e.currentTarget.value)}
        />
        <TextInput
          label="E-mail address"
          type="email"
          autoComplete="username"
          value={email}
          error={at("email")}
          onChange={(e) => setEmail(e.currentTarget.value)}
        />
        <PasswordInput
          label="Password"
          description="At least 10 characters; a short sentence is a good one."
          autoComplete="new-password"
          value={password}
          error={at("password")}
          onChange={(e) => setPassword(e.currentTarget.value)}
          visibilityToggleButtonProps={{ "aria-label": "Show the password" }}
        />
        <Button type="submit" loading={busy}>
          Join
        </Button>
        <Text size="sm">
          You have an account?{" "}
          <Link to="/sign-in" search={{ back: `/invitation#${token}` }}>
            Sign in first
          </Link>
        </Text>
      </Stack>
    </form>
  );
}
