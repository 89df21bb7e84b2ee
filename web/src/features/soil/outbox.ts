// What was seen and not sent yet, kept on this device: it goes once, whenever there is a connection.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { asBlob } from "./picture";
import { noteSeen, putPhoto } from "./queries";

export type Item = {
  zone: number;
  body: Schemas["JustSeen"];
  /** Its number, once the server has it. */
  id?: number;
  /** A photo that is still to be sent, as a data address. */
  photo?: string;
};

const name = (site: string) => `fresh-meadow-seen-${site}`;

function read(site: string): Item[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(name(site)) ?? "[]");
    return Array.isArray(kept) ? (kept as Item[]) : [];
  } catch {
    return [];
  }
}

const write = (site: string, items: Item[]) =>
  items.length > 0 ? localStorage.setItem(name(site), JSON.stringify(items)) : localStorage.removeItem(name(site));

/** Puts an item in the place of the one with its key, or takes it away. */
function replace(site: string, key: string, item: Item | undefined) {
  const items = read(site);
  const at = items.findIndex((i) => i.body.idempotency_key === key);
  if (item) items.splice(at < 0 ? items.length : at, at < 0 ? 0 : 1, item);
  else if (at >= 0) items.splice(at, 1);
  write(site, items);
}

type Sent = { item: Item; noted: Schemas["Noted"] };

/** Sends one after another; what the server refuses is given up, and said. */
async function flush(site: string, sent: (sent: Sent) => void, refused: (error: Error) => void) {
  for (const item of read(site)) {
    const key = item.body.idempotency_key;
    try {
      let id = item.id;
      if (id === undefined) {
        const noted = await noteSeen(site, item.zone, item.body);
        id = noted.id;
        replace(site, key, item.photo ? { ...item, id } : undefined);
        sent({ item, noted });
      }
      if (item.photo) {
        await putPhoto(site, id, asBlob(item.photo));
        replace(site, key, undefined);
      }
    } catch (error) {
      if (error instanceof ApiFailure && error.status !== 0) {
        replace(site, key, undefined);
        refused(error);
        continue;
      }
      // No connection: the rest waits with it.
      return;
    }
  }
}

let sending: Promise<void> = Promise.resolve();

export function useOutbox(site: string) {
  const queries = useQueryClient();
  const [waiting, setWaiting] = useState(() => read(site).length);
  const [last, setLast] = useState<Sent>();
  const [error, setError] = useState<Error>();
  const send = useCallback(() => {
    // One at a time, so that nothing is sent twice from one page.
    sending = sending
      .then(() => flush(site, setLast, setError))
      .then(() => {
        setWaiting(read(site).length);
        return queries.invalidateQueries({ queryKey: ["site", site] });
      });
  }, [site, queries]);
  useEffect(() => {
    if (read(site).length > 0) send();
    window.addEventListener("online", send);
    return () => window.removeEventListener("online", send);
  }, [site, send]);
  const put = (item: Item) => {
    setError(undefined);
    replace(site, item.body.idempotency_key, item);
    setWaiting(read(site).length);
    send();
  };
  return { put, waiting, last, error, forgetLast: () => setLast(undefined) };
}
