import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { Trouble } from "./api/client";
import { VoiceProvider } from "./api/use";
import "./style.css";

const queries = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 5_000, retry: (n, e) => n < 2 && e instanceof Trouble && (e.status === 0 || e.status >= 500) },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <VoiceProvider>
            <App />
          </VoiceProvider>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
