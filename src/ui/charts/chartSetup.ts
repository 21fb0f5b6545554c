import { CategoryScale, Chart, Decimation, Filler, LinearScale, LineController, LineElement, PointElement, Tooltip } from "chart.js";

// Everything is registered once, here; charts import this module before anything else.
Chart.register(LineController, LineElement, PointElement, LinearScale, CategoryScale, Decimation, Filler, Tooltip);

export { chartTheme } from "./chartTheme";
export { Chart };
