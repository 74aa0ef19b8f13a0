import { createRoot } from "react-dom/client";
import { StudioRoot } from "./StudioRoot";
import "./globals.css";

createRoot(document.getElementById("studio")!).render(<StudioRoot />);
