import "./early";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource/atkinson-hyperlegible-mono/500.css";
import "@fontsource/atkinson-hyperlegible-mono/700.css";
import "./theme/page.css";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { queries } from "./api/client";
import { startLive } from "./api/live";
import { startOutbox } from "./api/outbox";
import { Gate } from "./parts/Gate";
import { Guard } from "./parts/Guard";
import "./theme/light";
import { theme } from "./theme/theme";

function Root() {
  return (
    <ThemeProvider theme={theme}>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Gate>
            <Guard>
              <App />
            </Guard>
          </Gate>
        </BrowserRouter>
      </QueryClientProvider>
    </ThemeProvider>
  );
}

startOutbox();
startLive();
const place = document.getElementById("root");
if (place) {
  createRoot(place).render(
    <StrictMode>
      <Root />
    </StrictMode>,
  );
}

// What is needed now and then is there before the link may drop.
addEventListener("load", () => setTimeout(() => void Promise.all([import("./parts/SaidBar"), import("./parts/KeyList")]), 2000));
