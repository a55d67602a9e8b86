import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { Problem } from "../api/client";
import { router } from "./router";

// a session that has ended meanwhile: the sign-in comes, and after it the view as it was
const ended = (error: unknown) => {
  if (error instanceof Problem && error.status === 401 && cache.getQueryData(["session"]))
    cache.resetQueries({ queryKey: ["session"] });
};

const cache: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: ended }),
  mutationCache: new MutationCache({ onError: ended }),
  defaultOptions: {
    queries: {
      retry: (failures, error) =>
        !(error instanceof Problem && error.status >= 400 && error.status < 500) && failures < 3,
      refetchOnWindowFocus: false,
    },
  },
});

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={cache}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
