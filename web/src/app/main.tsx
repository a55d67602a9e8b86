import { applyTheme } from "../ui/theme";
import { loadWords } from "../words";
import "./styles.css";

// styles that parts of the page add are allowed by the word that came with it
declare global {
  var __webpack_nonce__: string | undefined;
}
globalThis.__webpack_nonce__ = document.querySelector<HTMLMetaElement>('meta[name="oddtick-nonce"]')?.content;

applyTheme();
await loadWords();
await import("./start");
