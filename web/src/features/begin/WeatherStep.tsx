// The weather that one has: the months' normals first, since with them there is a plan today.
import { Button, Group, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { Failed, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import { NormalsForm } from "../weather/NormalsForm";
import classes from "./Begin.module.css";

export function WeatherStep() {
  const { site } = useParams({ from: "/site/$site" });
  const navigate = useNavigate();
  const view = useQuery(siteQuery(site));
  if (view.isPending) return <Loading what="the site" />;
  if (view.error) return <Failed message={view.error.message} retry={() => view.refetch()} />;
  const morning = () => navigate({ to: "/site/$site/morning", params: { site } });
  return (
    <main className={classes.page}>
      <h1>What is the weather like there?</h1>
      <Text>
        With the months’ normals there is a plan today; each day that you tell, or that a station sends, makes it surer.
      </Text>
      <NormalsForm key={view.data.version} site={site} view={view.data} onDone={morning} />
      <Group>
        <Link to="/site/$site/settings" params={{ site }} search={{ tab: "weather" }}>
          A weather file, a service or a station
        </Link>
        <Button variant="subtle" onClick={morning}>
          Later
        </Button>
      </Group>
    </main>
  );
}
