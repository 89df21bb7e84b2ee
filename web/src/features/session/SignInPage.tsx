import { Button, Paper, PasswordInput, Stack, Text, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { client, unwrap } from "../../api";
import { NewAccount } from "../begin/NewAccount";
import { welcomeQuery } from "../begin/queries";
import { CoreSample } from "../core-sample/CoreSample";
import { Refused } from "../shell/States";
import { meQuery } from "./queries";
import classes from "./SignInPage.module.css";

export function SignInPage() {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const router = useRouter();
  const { back } = useSearch({ from: "/sign-in" });
  const welcome = useQuery(welcomeQuery);
  const [joining, setJoining] = useState(false);
  const first = welcome.data?.first_account ?? false;
  const enter = () => router.history.push(back ?? "/");
  const signIn = useMutation({
    mutationFn: () => unwrap(client.POST("/api/v1/session", { body: { email, password } })),
    onSuccess: (me) => {
      queries.clear();
      queries.setQueryData(meQuery.queryKey, me);
      enter();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate();
  };
  return (
    <main className={classes.page}>
      <div className={classes.words}>
        <CoreSample
          width={64}
          height={190}
          soil="loam"
          taw={50}
          raw={25}
          depletion={18}
          dose={18}
          tense="today"
          blades="fresh"
          label="A soil core: half full of water, the dose that refills it hatched"
        />
        <div>
          <h1>Fresh Meadow</h1>
          <Text size="lg" mt="sm" maw={420}>
            Which zones to water, when and how long, and why. From rain, evapotranspiration, grass and soil.
          </Text>
        </div>
      </div>
      {first || joining ? (
        <NewAccount first={first} className={classes.form} onDone={enter} />
      ) : (
        <Paper component="form" onSubmit={submit} withBorder p="lg" className={classes.form} aria-label="Sign in">
          <Stack>
            <h2>Sign in</h2>
            <Refused error={signIn.error} />
            <TextInput
              label="E-mail address"
              type="email"
              autoComplete="username"
              required
              value={email}
              onChange={(e) => setEmail(e.currentTarget.value)}
            />
            <PasswordInput
              label="Password"
              autoComplete="current-password"
              required
              value={password}
              onChange={(e) => setPassword(e.currentTarget.value)}
              visibilityToggleButtonProps={{ "aria-label": "Show the password" }}
            />
            <Button type="submit" loading={signIn.isPending} size="md">
              Sign in
            </Button>
            {welcome.data?.open_sign_up && (
              <Button variant="subtle" onClick={() => setJoining(true)}>
                Make an account
              </Button>
            )}
          </Stack>
        </Paper>
      )}
    </main>
  );
}
