// The water book: what was planned, what ran, what fell, what it cost; the meters beside it.
import { Button, Modal, NativeSelect, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useState } from "react";
import type { SiteView } from "../../api";
import { amount } from "../../money";
import { dated } from "../../time";
import { useUnits } from "../../units";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import classes from "./Book.module.css";
import { CapForm } from "./CapForm";
import { Caps } from "./Caps";
import { Meters } from "./Meters";
import { type Book, bookQuery } from "./queries";
import { Savings } from "./Savings";
import { spans } from "./spans";
import { TariffForm } from "./TariffForm";
import { ZoneTable } from "./ZoneTable";

// Drawing them takes much code: the figures and the meters do not wait for it.
const Charts = lazy(() => import("./Charts"));

export function BookPage() {
  const { site } = useParams({ from: "/site/$site/book" });
  const view = useQuery(siteQuery(site));
  if (view.isPending) return <Loading what="the water book" />;
  if (view.error) return <Failed message={view.error.message} retry={() => view.refetch()} />;
  return <Opened site={site} view={view.data} />;
}

function Opened({ site, view }: { site: string; view: SiteView }) {
  const { span: key } = useSearch({ from: "/site/$site/book" });
  const navigate = useNavigate();
  const { manage } = useRights(site);
  const choices = spans(view.today);
  const span = choices.find((s) => s.key === key) ?? choices[0];
  const book = useQuery(bookQuery(site, span?.from ?? view.today, span?.to ?? view.today));
  const [tariff, setTariff] = useState(false);
  const [caps, setCaps] = useState(false);
  useOpenForPrint();
  return (
    <main className={classes.page}>
      <div className={classes.head}>
        <h1>Water book</h1>
        <NativeSelect
          className="no-print"
          aria-label="Days of the book"
          data={choices.map((s) => ({ value: s.key, label: s.label }))}
          value={span?.key ?? ""}
          onChange={(e) =>
            navigate({ to: "/site/$site/book", params: { site }, search: { span: e.currentTarget.value } })
          }
        />
        <div className={`${classes.acts} no-print`}>
          {manage && (
            <Button size="xs" variant="outline" onClick={() => setTariff(true)}>
              What water costs
            </Button>
          )}
          {manage && (
            <Button size="xs" variant="outline" onClick={() => setCaps(true)}>
              What may be used
            </Button>
          )}
          <Button
            size="xs"
            variant="outline"
            onClick={() =>
              navigate({
                to: "/site/$site/book/days",
                params: { site },
                search: span?.key.length === 7 ? { span: span.key } : {},
              })
            }
          >
            Day by day
          </Button>
          <Button
            size="xs"
            variant="outline"
            onClick={() =>
              navigate({ to: "/site/$site/book/report", params: { site }, search: span ? { span: span.key } : {} })
            }
          >
            Report
          </Button>
          <Button size="xs" variant="outline" onClick={() => window.print()}>
            Print
          </Button>
        </div>
      </div>
      {book.isPending ? (
        <Loading what="the book" />
      ) : book.error ? (
        <Failed message={book.error.message} retry={() => book.refetch()} />
      ) : (
        <Pages site={site} view={view} book={book.data} />
      )}
      <Modal
        opened={tariff}
        onClose={() => setTariff(false)}
        size="lg"
        title="What water costs"
        closeButtonProps={{ "aria-label": "Close what water costs" }}
      >
        {tariff && <TariffForm site={site} view={view} onDone={() => setTariff(false)} />}
      </Modal>
      <Modal
        opened={caps}
        onClose={() => setCaps(false)}
        size="lg"
        title="What may be used"
        closeButtonProps={{ "aria-label": "Close what may be used" }}
      >
        {caps && <CapForm site={site} view={view} onDone={() => setCaps(false)} />}
      </Modal>
    </main>
  );
}

/** On paper the charts have their tables. */
function useOpenForPrint() {
  useEffect(() => {
    const open = () => {
      for (const table of document.querySelectorAll("details")) table.open = true;
    };
    window.addEventListener("beforeprint", open);
    return () => window.removeEventListener("beforeprint", open);
  }, []);
}

function Pages({ site, view, book }: { site: string; view: SiteView; book: Book }) {
  const currency = view.site.currency;
  const empty = book.total.run_l === 0 && book.total.etc_mm === 0;
  return (
    <>
      <Headline book={book} currency={currency} />
      <Caps site={site} />
      <div className={classes.columns}>
        <Meters site={site} view={view} book={book} />
        <div className={classes.charts}>
          {empty ? (
            <Text>Nothing was watered in these days, and the record has no weather of them.</Text>
          ) : (
            <Suspense fallback={<Loading what="the charts" />}>
              <Charts which="time" book={book} currency={currency} />
            </Suspense>
          )}
        </div>
      </div>
      {!empty && (
        <>
          <ZoneTable book={book} currency={currency} />
          <section>
            <h2 className={classes.first}>What would save water</h2>
            <Savings site={site} currency={currency} />
          </section>
          <Suspense fallback={<Loading what="the chart" />}>
            <Charts which="zones" book={book} currency={currency} />
          </Suspense>
        </>
      )}
    </>
  );
}

/** The book in two sentences. */
function Headline({ book, currency }: { book: Book; currency: string | null | undefined }) {
  const units = useUnits();
  const { total } = book;
  const assumed = total.run_l > 0 ? total.assumed_l / total.run_l : 0;
  return (
    <p className={classes.headline}>
      {dated(book.from)} to {dated(book.to)}: <strong>{units.show("volume", total.run_l)}</strong> ran of{" "}
      {units.show("volume", total.planned_l)} planned
      {total.cost == null ? "" : `, for ${amount(total.cost + (book.fees ?? 0), currency)} with the months’ fees`}. The
      turf needed {units.show("depth", total.etc_mm)}; {units.show("depth", total.net_mm)} of irrigation and{" "}
      {units.show("depth", total.effective_rain_mm)} of rain entered the soil.
      {book.next_m3 == null
        ? ""
        : ` The next water costs ${amount(Number(units.toField("price", book.next_m3)), currency)} ${units.label("price")}.`}
      {assumed > 0.005 && (
        <span className="quiet">
          {" "}
          {Math.round(assumed * 100)} % of what ran is assumed: nobody said whether it did.
        </span>
      )}
    </p>
  );
}
