import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { api, ApiError, type CandidateView } from "./lib/api";
import { candidateKey, putView } from "./lib/hooks";
import { outbox } from "./lib/outbox";
import { photos } from "./lib/photos";
import { applyTheme } from "./lib/theme";
import "./index.css";

applyTheme();

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => error instanceof ApiError && error.passing && count < 40,
      retryDelay: 1500,
      refetchOnWindowFocus: true,
    },
  },
});

// What is stored is shown before the next key or tap is heard.
notifyManager.setScheduler(queueMicrotask);

const stored = (view: CandidateView) => putView(client, view);
outbox.start(stored);
photos.start(stored);
/** So long the first page has the machine for itself. */
const FIRST_MS = 1500;

// Browsers offer this on secure pages and on loopback; elsewhere the application needs its connection.
if (import.meta.env.PROD && "serviceWorker" in navigator) {
  setTimeout(() => navigator.serviceWorker.register("/sw.js").catch(() => undefined), FIRST_MS);
}

/** Puts the early answer in its place. */
async function first(): Promise<void> {
  const id = /^\/c\/([0-9a-f-]{36})(\/|$)/.exec(location.pathname)?.[1];
  if (id) await client.prefetchQuery({ queryKey: candidateKey(id), queryFn: () => api.candidate(id) });
  else if (location.pathname === "/") await client.prefetchQuery({ queryKey: ["yard"], queryFn: api.yard });
}

function start(root: HTMLElement) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}

/** So long a page waits for its answer before it says that it waits: what is drawn twice takes twice as long. */
const PATIENCE_MS = 250;

const root = document.getElementById("root");
if (root) {
  const patience = new Promise((resolve) => setTimeout(resolve, PATIENCE_MS));
  void Promise.race([first(), patience]).finally(() => start(root));
}
