import "@fontsource-variable/source-sans-3";
import "@fontsource-variable/source-serif-4";
import "./design/tokens.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Problem } from "./api/client";
import { App } from "./App";
import { dress, dressKept, followMachine } from "./design/scheme";

// Dialogs lock scrolling by a style element, which the content security policy admits by this nonce only.
setNonce(document.querySelector<HTMLMetaElement>('meta[name="nonce"]')?.content ?? "");

// As the person had it here last, before anything is drawn.
dress(dressKept());
followMachine();

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (times, error) => !(error instanceof Problem && error.status < 500) && times < 2,
      refetchOnWindowFocus: false,
    },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        {/* An address changed by one key is drawn before the next key is read. */}
        <BrowserRouter useTransitions={false}>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
