import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// Relative addresses, so that the built page can be served from any folder. cssTarget keeps light-dark() as it is.
export default defineConfig({ base: "./", plugins: [react()], worker: { format: "es" }, build: { cssTarget: "esnext", target: "es2022" } });
