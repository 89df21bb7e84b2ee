import { Button, CopyButton, Group, Modal, NativeSelect, Stack, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import type { ApiFailure, Schemas } from "../../api";
import { counted } from "../../plural";
import { dayMonth } from "../../time";
import { ROLES, type Role, roleName, useRights } from "../session/rights";
import { Failed, Loading, Refused } from "../shell/States";
import classes from "../site/SitePage.module.css";
import { devicesQuery } from "../weather/queries";
import { peopleQuery, useInvite, useLeave, useRemove, useRevoke, useSetRole } from "./queries";
import { type Tokens, TokensOf, useTokensOf } from "./TokensOf";

type Member = Schemas["MemberView"];

/** Roles that answer for tokens of devices. */
const MANAGES: Role[] = ["manager", "owner"];

/** Names under which a computer finds itself, and nobody else does. */
const ALONE = /^(localhost|127\..*|\[?::1\]?)$/;

const OPTIONS = ROLES.map((r) => ({ value: r.role, label: `${r.name}: ${r.may}` }));

export function PeoplePanel({ site }: { site: string }) {
  const people = useQuery(peopleQuery(site));
  const rights = useRights(site);
  const [removing, setRemoving] = useState<Member>();
  const [lowered, setLowered] = useState<{ member: Member; role: Role }>();
  const setRole = useSetRole(site);
  const devices = useQuery({ ...devicesQuery(site), enabled: rights.own }).data;
  if (people.isPending) return <Loading what="the people" />;
  if (people.error) return <Failed message={people.error.message} retry={() => people.refetch()} />;
  return (
    <div className={classes.columns}>
      <section>
        <h2>Who belongs here</h2>
        <Refused error={setRole.error} />
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th scope="col">Role</th>
              <th scope="col">
                <span className="hidden">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {people.data.members.map((m) => (
              <tr key={m.account}>
                <th scope="row">
                  {m.name}
                  {m.you ? " (you)" : ""}
                  <br />
                  <span className={`quiet ${classes.breaks}`}>{m.email}</span>
                </th>
                <td>
                  {rights.own ? (
                    <NativeSelect
                      aria-label={`Role of ${m.name}`}
                      className={classes.narrow}
                      value={m.role}
                      data={ROLES.map((r) => ({ value: r.role, label: r.name }))}
                      onChange={(e) => {
                        const role = e.currentTarget.value as Role;
                        const tokens = devices?.some((device) => device.maker === m.account);
                        if (tokens && !MANAGES.includes(role)) setLowered({ member: m, role });
                        else setRole.mutate({ account: m.account, role });
                      }}
                    />
                  ) : (
                    roleName(m.role)
                  )}
                </td>
                <td>
                  <div className={classes.actions}>
                    {rights.own && !m.you && (
                      <Button
                        size="xs"
                        variant="outline"
                        aria-label={`Remove ${m.name}`}
                        onClick={() => setRemoving(m)}
                      >
                        Remove
                      </Button>
                    )}
                  </div>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <Leave site={site} />
      </section>
      {rights.own && <Invitations site={site} invitations={people.data.invitations} />}
      <RemoveMember key={removing?.account} site={site} member={removing} onClose={() => setRemoving(undefined)} />
      {lowered && <LowerRole site={site} {...lowered} onClose={() => setLowered(undefined)} />}
    </div>
  );
}

function Leave({ site }: { site: string }) {
  const leave = useLeave(site);
  const navigate = useNavigate();
  const [sure, setSure] = useState(false);
  return (
    <Stack gap="xs" mt="md" align="flex-start">
      <Refused error={leave.error} />
      {sure ? (
        <Group>
          <Button
            size="xs"
            color="clay"
            loading={leave.isPending}
            onClick={() => leave.mutate(undefined, { onSuccess: () => navigate({ to: "/" }) })}
          >
            Leave for good
          </Button>
          <Button size="xs" variant="outline" onClick={() => setSure(false)}>
            Stay
          </Button>
        </Group>
      ) : (
        <Button size="xs" variant="outline" onClick={() => setSure(true)}>
          Leave this site
        </Button>
      )}
    </Stack>
  );
}

/** A member who made tokens for devices is to manage no more. */
function LowerRole({ site, member, role, onClose }: { site: string; member: Member; role: Role; onClose: () => void }) {
  const setRole = useSetRole(site);
  const [tokens, setTokens] = useState<Tokens>("end");
  const devices = useTokensOf(site, member.account, true);
  return (
    <Modal
      opened
      onClose={onClose}
      title={`${member.name}: ${roleName(role)}`}
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        <TokensOf name={member.name} devices={devices ?? []} value={tokens} onChange={setTokens} />
        <Refused error={setRole.error} />
        <Button
          loading={setRole.isPending}
          onClick={() => setRole.mutate({ account: member.account, role, tokens }, { onSuccess: onClose })}
        >
          Give this role
        </Button>
      </Stack>
    </Modal>
  );
}

function RemoveMember({ site, member, onClose }: { site: string; member: Member | undefined; onClose: () => void }) {
  const remove = useRemove(site);
  const [tokens, setTokens] = useState<Tokens>("end");
  const devices = useTokensOf(site, member?.account, member !== undefined);
  return (
    <Modal
      opened={member !== undefined}
      onClose={onClose}
      title={`Remove ${member?.name ?? ""}?`}
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack>
        <Text>They are signed out everywhere at once. What they noted stays in the record.</Text>
        {member && <TokensOf name={member.name} devices={devices ?? []} value={tokens} onChange={setTokens} />}
        <Refused error={remove.error} />
        <Button
          color="clay"
          loading={remove.isPending}
          onClick={() => member && remove.mutate({ account: member.account, tokens }, { onSuccess: onClose })}
        >
          Remove
        </Button>
      </Stack>
    </Modal>
  );
}

function Invitations({ site, invitations }: { site: string; invitations: Schemas["InvitationView"][] }) {
  const invite = useInvite(site);
  const revoke = useRevoke(site);
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("crew");
  const [link, setLink] = useState<{ name: string; url: string }>();
  const problem = (invite.error as ApiFailure | null)?.problem;
  const nameError = problem?.field === "name" ? problem.detail : undefined;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    invite.mutate(
      { name, role },
      {
        onSuccess: ({ token }) => {
          setLink({ name, url: `${window.location.origin}/invitation#${token}` });
          setName("");
        },
      },
    );
  };
  return (
    <section>
      <h2>Invite somebody</h2>
      <form onSubmit={submit}>
        <Stack gap="sm" mt="xs">
          {!nameError && <Refused error={invite.error} />}
          <TextInput
            label="Name"
            required
            value={name}
            error={nameError}
            onChange={(e) => setName(e.currentTarget.value)}
          />
          <NativeSelect
            label="Role"
            value={role}
            data={OPTIONS}
            onChange={(e) => setRole(e.currentTarget.value as Role)}
          />
          <Group>
            <Button type="submit" loading={invite.isPending}>
              Make a link
            </Button>
          </Group>
        </Stack>
      </form>
      {link && (
        <Stack gap="xs" mt="md" role="status">
          <TextInput
            label={`Link for ${link.name}`}
            readOnly
            value={link.url}
            onFocus={(e) => e.currentTarget.select()}
          />
          {ALONE.test(window.location.hostname) && (
            <Text>
              This link opens on this computer alone. For a phone in the house start Fresh Meadow with --lan, open the
              address that it prints, and make the link there.
            </Text>
          )}
          <Group>
            <CopyButton value={link.url}>
              {({ copied, copy }) => (
                <Button size="xs" variant="outline" onClick={copy}>
                  {copied ? "Copied" : "Copy the link"}
                </Button>
              )}
            </CopyButton>
          </Group>
          <Text className="quiet">
            It works once, for seven days, and is not shown again. Send it to them yourself.
          </Text>
        </Stack>
      )}
      {invitations.length > 0 && (
        <>
          <h3>Invitations</h3>
          <table className={classes.table}>
            <tbody>
              {invitations.map((i) => (
                <tr key={i.id}>
                  <th scope="row">{i.name}</th>
                  <td>{roleName(i.role)}</td>
                  <td>{fate(i)}</td>
                  <td>
                    {isOpen(i) && (
                      <Button
                        size="xs"
                        variant="outline"
                        aria-label={`Revoke the invitation of ${i.name}`}
                        onClick={() => revoke.mutate(i.id)}
                      >
                        Revoke
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Refused error={revoke.error} />
        </>
      )}
    </section>
  );
}

const isOpen = (i: Schemas["InvitationView"]) =>
  !i.accepted_at && !i.revoked_at && new Date(i.expires_at).getTime() > Date.now();

function fate(i: Schemas["InvitationView"]): string {
  if (i.accepted_at) return `accepted ${dayMonth(i.accepted_at.slice(0, 10))}`;
  if (i.revoked_at) return "revoked";
  // Counted by this device's clock: that of a demo stands elsewhere.
  const days = Math.ceil((new Date(i.expires_at).getTime() - Date.now()) / 86_400_000);
  return isOpen(i) ? `open for ${counted(days, "day")}` : "too old";
}
