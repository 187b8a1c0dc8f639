import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { ApiError, type CandidateView } from "./lib/api";
import { putView } from "./lib/hooks";
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
// Browsers offer this on secure pages and on loopback; elsewhere the application needs its connection.
if (import.meta.env.PROD && "serviceWorker" in navigator) {
  navigator.serviceWorker.register("/sw.js").catch(() => undefined);
}

const root = document.getElementById("root");
if (root) {
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
