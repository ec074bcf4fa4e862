import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import "./app.css";
import { App } from "./App";
import { Says } from "./kit/Says";
import { Refusal } from "./lib/api";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // A refusal is an answer; only a server out of reach is worth asking again.
      retry: (times, error) => error instanceof Refusal && error.status === 0 && times < 2,
    },
  },
});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <Says>
          <App />
        </Says>
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
