/** What can be wrong with a bench, switchable on the stand-ins; each leaves its mark where a real one would. */
export interface Fault {
  id: string;
  name: string;
  /** How it could have been seen, told at the end of a practice. */
  seen: string;
}

export const FAULTS: readonly Fault[] = [
  {
    id: "cap",
    name: "frame limit on",
    seen: "Frame times pile up on one value with almost none faster; the rate is a round number and the card's load and power fall.",
  },
  { id: "memory-profile", name: "memory profile off", seen: "The memory reads 4800 MT/s instead of 6000; averages lose a few per cent, lows more." },
  { id: "one-stick", name: "one memory stick", seen: "The memory reads one channel; lows fall far more than the average, and stutters multiply." },
  { id: "old-firmware", name: "old firmware", seen: "The processor's clock stays at 4.3 GHz instead of 4.9 under load; every rate is a little low." },
  {
    id: "throttling",
    name: "throttling cooler",
    seen: "The card climbs to its ceiling of 83 °C, then its clock falls by a tenth and the frame times rise with it.",
  },
  { id: "recorder", name: "background recorder running", seen: "A long frame comes about every second, and the processor's load is higher than it should be." },
  { id: "crash", name: "crash", seen: "The run ends by itself after about half of its length." },
  { id: "glitch", name: "glitch", seen: "A single burst of frames several times as long as their neighbours; the average hides it, the low does not." },
  { id: "probe", name: "probe fallen off", seen: "The hot spot's reading sinks towards the room while the card's own stays where it was." },
];

/** The stand-ins' instruments with the channels they give. */
export const INSTRUMENTS = [
  { id: "frames", name: "Frame recorder", channels: ["gpu_ghz", "cpu_ghz", "gpu_load_ratio", "cpu_load_ratio", "memory_mts", "memory_channels"] },
  { id: "device-meter", name: "Device power meter", channels: ["gpu_w"] },
  { id: "wall-meter", name: "Wall power meter", channels: ["wall_w"] },
  { id: "probes", name: "Temperature probes", channels: ["gpu_c", "hotspot_c", "ambient_c"] },
  { id: "sound", name: "Sound meter, 0.5 m", channels: ["noise_dba"] },
] as const;
