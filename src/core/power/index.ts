export { type EnergyProblem, energyOverWindow, framesPerJoule, type WindowEnergy } from "./energy";
