import "./styles.css";

import { createAsyncStoragePersister } from "@tanstack/query-async-storage-persister";
import { MutationCache, QueryCache, QueryClient } from "@tanstack/react-query";
import { PersistQueryClientProvider } from "@tanstack/react-query-persist-client";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";

import { ServerSaid } from "./api/client";
import { keys } from "./api/keys";
import { App } from "./app";
import { DeviceProvider } from "./device/device";
import { openStore } from "./device/store";
import { noticeOf, Notices } from "./lib/notices";
import { NoticesProvider } from "./ui/notices";

const WEEK_MS = 7 * 86_400_000;
const CACHE = "queries";

const store = openStore();
const notices = new Notices();
const say = (error: Error, isAction: boolean) => {
  const notice = noticeOf(error, isAction);
  if (notice) notices.add(notice);
};
const REFUSED = [401, 403, 422];
const queries = new QueryClient({
  // A failed fetch of what is shown already is no reason to speak; stations say it where nothing can be shown.
  queryCache: new QueryCache({
    onError: (error, query) => {
      // A sign-in that has ended is noticed wherever it is asked for first.
      if (error instanceof ServerSaid && error.status === 401 && query.queryKey[0] !== "me")
        void queries.invalidateQueries({ queryKey: keys.me() });
      if (query.state.data === undefined && query.meta?.["saidInPlace"] !== true) say(error, false);
    },
  }),
  mutationCache: new MutationCache({
    onError: (error, _sent, _kept, mutation) => {
      if (mutation.meta?.["saidInPlace"] !== true) say(error, true);
    },
  }),
  defaultOptions: {
    queries: {
      // What is refused for who asks, or for what was asked, is refused again; what is not there may be on its way.
      retry: (failures, error) => failures < 1 && !(error instanceof ServerSaid && REFUSED.includes(error.status)),
      staleTime: 1000,
      gcTime: WEEK_MS,
      networkMode: "offlineFirst",
    },
    mutations: { networkMode: "always" },
  },
});
const persister = createAsyncStoragePersister({
  storage: {
    getItem: async (key) => (await (await store).get("cache", key)) ?? null,
    setItem: async (key, value: string) => {
      await (await store).put("cache", value, key);
    },
    removeItem: async (key) => {
      await (await store).delete("cache", key);
    },
  },
  key: CACHE,
  // Whoever steps into the cellar at once has what was just fetched.
  throttleTime: 100,
});
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <PersistQueryClientProvider
        client={queries}
        persistOptions={{
          persister,
          maxAge: WEEK_MS,
          buster: __BUILD__,
          // What was fetched once is kept, also when fetching it again failed since. That nobody is signed in
          // is not kept: a device without a signal opens on what it has.
          dehydrateOptions: { shouldDehydrateQuery: ({ state }) => state.data !== undefined && state.data !== null },
        }}
        onSuccess={() => void queries.invalidateQueries()}
      >
        <NoticesProvider value={notices}>
          <DeviceProvider store={store}>
            <BrowserRouter>
              <App />
            </BrowserRouter>
          </DeviceProvider>
        </NoticesProvider>
      </PersistQueryClientProvider>
    </StrictMode>,
  );
}
