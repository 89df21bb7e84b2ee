import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { longDay } from "../../time";

export const STEPS = [1, 3, 7];

export const stepName = (days: number) => (days === 1 ? "One day on" : `${days} days on`);

/** Steps the site's simulated clock. */
export function useStep(site: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ from, days }: { from: string; days: number }) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/clock-steps", {
          params: { path: { site: Number(site) } },
          body: { from, days },
        }),
      ),
    onSuccess: (view: Schemas["Stepped"]) => {
      const message = `It is ${longDay(view.today)} now.`;
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
