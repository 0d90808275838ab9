import { createContext, useContext, useSyncExternalStore } from "react";

import type { Notices } from "../lib/notices";

const Said = createContext<Notices | null>(null);
export const NoticesProvider = Said.Provider;

/** Troubles of the whole page, above whatever is shown. */
export function NoticeList() {
  const notices = useContext(Said);
  if (!notices) throw new Error("There are no notices around this screen.");
  const shown = useSyncExternalStore(notices.subscribe, notices.snapshot);
  return (
    <div aria-live="assertive" className="flex flex-col gap-2">
      {shown.map((notice) => (
        <div key={notice.id} role="alert" className="sheet hazard flex flex-wrap items-center gap-x-4 py-2 pr-4">
          <p className="mr-auto">
            <span className="font-bold">{notice.title}</span> {notice.safe} {notice.next}
          </p>
          <button
            type="button"
            className="min-h-12 px-2 font-bold underline underline-offset-4"
            onClick={() => {
              notices.dismiss(notice.id);
            }}
          >
            Understood
          </button>
        </div>
      ))}
    </div>
  );
}
