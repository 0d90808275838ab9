import { Trouble, Waiting } from "./trouble";

const ONCE = "Open this page once with a signal: from then on it works without.";

/** What is shown as long as something is not there yet: that it is on its way, or that it could not be fetched. */
export function Fetching({
  what,
  failed,
  safe = "What was entered is kept.",
  next = "It is tried again by itself.",
}: {
  /** Such as "the lists to choose from". */
  what: string;
  failed: boolean;
  safe?: string;
  next?: string;
}) {
  if (!failed) return <Waiting what={`Fetching ${what}`} />;
  return <Trouble title={`Not fetched: ${what}.`} safe={safe} next={next} />;
}

/** The same for the lists that every device keeps once it has seen them. */
export function FetchingLists({ failed }: { failed: boolean }) {
  return <Fetching what="the lists to choose from" failed={failed} next={ONCE} />;
}
