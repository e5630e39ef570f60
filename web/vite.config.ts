import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
	plugins: [react(), tailwindcss()],
	build: {
		license: { fileName: "licences.md" },
		outDir: "../src/oddlamp/api/static",
		emptyOutDir: true,
		assetsInlineLimit: 0,
		chunkSizeWarningLimit: 800,
	},
	server: { proxy: { "/api": "http://127.0.0.1:8080" } },
});
