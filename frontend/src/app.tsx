import { Route, Routes } from "react-router";

import { useCatalogue } from "./api/knowledge";
import { useMe } from "./api/people";
import { Board } from "./stations/board/board";
import { Call } from "./stations/call/call";
import { History } from "./stations/history/history";
import { JobFrame } from "./stations/job-frame";
import { MachinePage } from "./stations/machines/machine-page";
import { Machines } from "./stations/machines/machines";
import { NewJob } from "./stations/new-job/new-job";
import { FaultPage } from "./stations/faults/fault-page";
import { People } from "./stations/people/people";
import { SignIn } from "./stations/people/sign-in";
import { ShopRecord } from "./stations/record/record";
import { Shop } from "./stations/shop/shop";
import { Stock } from "./stations/stock/stock";
import { STATIONS } from "./stations/stations";
import { NoticeList } from "./ui/notices";
import { TopBar } from "./ui/top-bar";
import { WaitingLine } from "./ui/waiting-line";

export function App() {
  const me = useMe();
  if (me.data === null) {
    return (
      <div className="mx-auto min-h-dvh max-w-[1280px] px-4 pb-24 sm:px-8">
        <SignIn />
      </div>
    );
  }
  return (
    <div className="mx-auto min-h-dvh max-w-[1280px] px-4 pb-24 sm:px-8">
      <TopBar who={me.data?.mode === "people" ? me.data.name : null} />
      <KeptLists />
      <NoticeList />
      <WaitingLine />
      <Routes>
        <Route path="/" element={<Board />} />
        <Route path="/new" element={<NewJob />} />
        <Route path="/stock" element={<Stock />} />
        <Route path="/shop" element={<Shop />} />
        <Route path="/faults/:layout/:fault" element={<FaultPage />} />
        <Route path="/people" element={<People />} />
        <Route path="/record" element={<ShopRecord />} />
        <Route path="/machines" element={<Machines />} />
        <Route path="/machines/:machineId" element={<MachinePage />} />
        <Route path="/jobs/:jobId" element={<JobFrame />}>
          <Route index element={<Call />} />
          {STATIONS.map(({ code, Page, Detail }) => (
            <Route key={code} path={code}>
              <Route index element={<Page />} />
              {Detail ? <Route path={Detail.path} element={<Detail.Page />} /> : null}
            </Route>
          ))}
          <Route path="history" element={<History />} />
        </Route>
        <Route
          path="*"
          element={
            <main>
              <h1 className="pt-6 text-3xl">There is no such page</h1>
              <p className="py-4">Go back to the board: what you entered is kept.</p>
            </main>
          }
        />
      </Routes>
    </div>
  );
}

/** The lists of codes and words, fetched on whichever page is opened: without a signal every station needs them. */
function KeptLists() {
  useCatalogue();
  return null;
}
