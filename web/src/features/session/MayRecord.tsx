// At a form's address without the right to use it: told so, rather than shown a form that the server refuses.
import { Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { Empty } from "../shell/States";
import { meQuery } from "./queries";
import { roleName, useRights } from "./rights";

type Props = { site: string; what: string; children: ReactNode };

export function MayRecord(props: Props) {
  const rights = useRights(props.site);
  return <May {...props} may={rights.record} as="crew" />;
}

export function MayManage(props: Props) {
  const rights = useRights(props.site);
  return <May {...props} may={rights.manage} as="manager" />;
}

function May({ site, what, children, may, as }: Props & { may: boolean; as: string }) {
  const { data: me } = useQuery(meQuery);
  const rights = useRights(site);
  if (!me || may) return children;
  return (
    <main>
      <Empty title="Not with your role">
        <Text>
          You are {roleName(rights.role).toLowerCase()} on this site: you can read everything
          {rights.record ? " and note what you see and do" : ""}. To {what}, ask an owner to make you {as}.
        </Text>
        <Link to="/site/$site/morning" params={{ site }}>
          Morning
        </Link>
      </Empty>
    </main>
  );
}
