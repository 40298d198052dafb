import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app.tsx";
import "./theme.css";

// A page that stays open over an upgrade asks for parts of its own build, which are gone: it begins anew with today's.
addEventListener("vite:preloadError", () => location.reload());

const root = document.getElementById("root");
if (root === null) throw new Error("the page has no root element");
createRoot(root).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
