/** How a sensor channel is shown: its name in words, its unit, its digits. */
export interface ChannelName {
  name: string;
  unit: string;
  digits: number;
}

export const CHANNEL_NAMES: Record<string, ChannelName> = {
  gpu_c: { name: "card", unit: "°C", digits: 1 },
  cpu_c: { name: "processor", unit: "°C", digits: 1 },
  hotspot_c: { name: "hot spot", unit: "°C", digits: 1 },
  ambient_c: { name: "room", unit: "°C", digits: 1 },
  gpu_w: { name: "at the card", unit: "W", digits: 0 },
  wall_w: { name: "at the wall", unit: "W", digits: 0 },
  noise_dba: { name: "noise", unit: "dBA", digits: 1 },
  gpu_ghz: { name: "card clock", unit: "GHz", digits: 2 },
  cpu_ghz: { name: "processor clock", unit: "GHz", digits: 2 },
  gpu_load_ratio: { name: "card load", unit: "", digits: 2 },
  cpu_load_ratio: { name: "processor load", unit: "", digits: 2 },
  memory_c: { name: "video memory", unit: "°C", digits: 1 },
  regulator_c: { name: "regulator", unit: "°C", digits: 1 },
  cpu_w: { name: "processor package", unit: "W", digits: 0 },
  vram_gib: { name: "video memory used", unit: "GiB", digits: 1 },
  memory_mts: { name: "memory", unit: "MT/s", digits: 0 },
  memory_channels: { name: "channels", unit: "", digits: 0 },
};

const UNITS: Record<string, string> = { c: "°C", w: "W", ghz: "GHz", ratio: "", gib: "GiB", rpm: "rpm", dba: "dBA", v: "V", a: "A", mts: "MT/s" };

/** The words for a channel as it is stored, `gpu_c` or `fan1_rpm`. */
export function channelOf(stored: string): ChannelName {
  const known = CHANNEL_NAMES[stored];
  if (known) return known;
  const cut = stored.lastIndexOf("_");
  return { name: stored.slice(0, cut).replaceAll("_", " "), unit: UNITS[stored.slice(cut + 1)] ?? stored.slice(cut + 1), digits: 1 };
}
