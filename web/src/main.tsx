import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/sometype-mono/wght.css";
import "./theme.scss";

import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { queries } from "./api/queries";
import { App } from "./App";
import { askAhead } from "./ahead";
import { begunLater } from "./core/begin";

askAhead(location.pathname);

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);

begunLater();
