export { liveAsBot } from "./demo/bots.ts";
export { playRun } from "./demo/run.ts";
export { DEMO_CONFIG, type ServiceProcess, ServiceStartError, startService } from "./demo/service-process.ts";
export { GAME_BUILD, playVoyage, type VoyageReport, type VoyageStep } from "./demo/voyage.ts";
export { goAboard, NotBoardedError } from "./game/play.ts";
