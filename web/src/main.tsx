import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { Refusal } from "./lib/api";
import { candidateKey } from "./lib/hooks";
import { outbox } from "./lib/outbox";
import { applyTheme } from "./lib/theme";
import "./index.css";

applyTheme();

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => error instanceof Refusal && error.passing && count < 40,
      retryDelay: 1500,
      refetchOnWindowFocus: true,
    },
  },
});

outbox.start((view) => {
  client.setQueryData(candidateKey(view.id), view);
  void client.invalidateQueries({ queryKey: ["yard"] });
});

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
