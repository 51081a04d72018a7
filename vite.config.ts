import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Letters of every page; those of other alphabets are loaded where they stand. */
const everywhere = /-latin-wght-normal-[\w-]+\.woff2$/;

/**
 * What every page needs is asked for as soon as its first lines are read, and not once its script runs: its letters, so
 * that no others flash up, and who is signed in.
 */
function askedEarly(): Plugin {
  return {
    name: "asked-early",
    transformIndexHtml: {
      order: "post",
      handler: (_html, { bundle }) => [
        ...Object.keys(bundle ?? {})
          .filter((file) => everywhere.test(file))
          .map((file) => ({
            tag: "link",
            injectTo: "head" as const,
            attrs: { rel: "preload", href: `./${file}`, as: "font", type: "font/woff2", crossorigin: "" },
          })),
        { tag: "link", injectTo: "head", attrs: { rel: "preload", href: "./api/me", as: "fetch", crossorigin: "" } },
      ],
    },
  };
}

/** How a page stood when it was left is shown before the interface's own script has come. */
function keptFirst(): Plugin {
  return {
    name: "kept-first",
    transformIndexHtml: {
      order: "post",
      handler: (_html, { bundle }) =>
        Object.values(bundle ?? {})
          .filter((file) => file.type === "chunk" && file.isEntry && file.name === "show-kept")
          .map(({ fileName }) => ({
            tag: "script",
            injectTo: "head-prepend" as const,
            attrs: { type: "module", crossorigin: "", src: `./${fileName}` },
          })),
    },
  };
}

export default defineConfig({
  root: "web",
  // Pages stand at any depth, below any path: the server says from where they name what is beside them.
  base: "./",
  plugins: [react(), tailwindcss(), askedEarly(), keptFirst()],
  build: {
    outDir: "../dist/web",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 500,
    rollupOptions: { input: { index: "web/index.html", "show-kept": "web/src/frame/kept/show-kept.ts" } },
  },
  server: { proxy: { "/api": "http://127.0.0.1:7373" } },
});
