// At a form's address without the right to use it: told so, rather than shown a form that the server refuses.
import { Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { Empty } from "../shell/States";
import { meQuery } from "./queries";
import { roleName, useRights } from "./rights";

export function MayRecord({ site, what, children }: { site: string; what: string; children: ReactNode }) {
  const { data: me } = useQuery(meQuery);
  const rights = useRights(site);
  if (!me || rights.record) return children;
  return (
    <main>
      <Empty title="Not with your role">
        <Text>
          You are {roleName(rights.role).toLowerCase()} on this site: you can read everything. To {what}, ask an owner
          to make you crew.
        </Text>
        <Link to="/site/$site/morning" params={{ site }}>
          Morning
        </Link>
      </Empty>
    </main>
  );
}
