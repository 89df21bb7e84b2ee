import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { clock, longDay } from "../../time";

type Step = { days: number; hours: number };

const days = (days: number): Step => ({ days, hours: 0 });

export const STEPS: Step[] = [{ days: 0, hours: 3 }, days(1), days(3), days(7)];

export const stepName = ({ days, hours }: Step) =>
  days === 0 ? `${hours} hours on` : days === 1 ? "One day on" : `${days} days on`;

/** Steps the site's simulated clock. */
export function useStep(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ from, days, hours }: Step & { from: string }) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/clock-steps", {
          params: { path: { site: Number(site) } },
          body: { from, days, hours },
        }),
      ),
    onSuccess: (view: Schemas["Stepped"], { days }) => {
      const at = days > 0 ? longDay(view.today) : clock(view.now, view.site.time_zone);
      const message = `It is ${at} now.`;
      if (view.stopped) {
        notifications.show({
          color: "clay",
          title: "The clock stopped on the way",
          message: `${message} Reason: ${view.stopped}.`,
        });
      } else {
        notifications.show({ message });
      }
    },
    onError: (error) => {
      notifications.show({ color: "clay", title: "The clock did not move", message: error.message });
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["site", site] }),
  });
}
