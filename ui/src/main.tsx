import { startGround } from "./kit/ground";
import { startLanguage } from "./kit/tr";
import "./style.css";

startGround();
// Words are looked up as modules are read: the reader's catalogue is there before the pages are.
void startLanguage().finally(() => import("./start"));
