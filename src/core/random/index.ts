export { createRandom, type Random } from "./createRandom";
