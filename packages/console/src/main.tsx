import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app.tsx";
import "./theme.css";

const root = document.getElementById("root");
if (root === null) throw new Error("the page has no root element");
createRoot(root).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
