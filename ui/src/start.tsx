import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { App } from "./App";
import { ToastProvider } from "./api/actions";
import { Trouble } from "./api/client";

const queries = new QueryClient({
  defaultOptions: {
    // Without network the device's own copy answers.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (n, e) => n < 2 && e instanceof Trouble && e.away,
    },
  },
});

// One route: the pages choose for themselves what they show. A router of this kind can hold somebody who leaves words unsaved.
const router = createBrowserRouter([{ path: "*", element: <App /> }]);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <ToastProvider>
          <RouterProvider router={router} />
        </ToastProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
