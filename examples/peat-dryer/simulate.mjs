#!/usr/bin/env node
// A rotary dryer for milled peat, made up: ten inputs in, eight results out, the same at every call. It stands for a
// simulation of one's own. A trial comes as JSON on standard input, results go as name=value lines to standard output.
//
// Peat falls through hot air in an inclined drum, slice by slice: it is warmed, loses water as fast as heat arrives and
// as the dry skin of its grains lets it out, and wanders on as fast as the drum turns it over.
import { readFileSync } from "node:fs";

const LENGTH = 12; // m
const DIAMETER = 2.2; // m
const SLICES = 240;
const LATENT = 2400; // kJ/kg water
const AIR = 1.06; // kJ/(kg K)
const SOLID = 1.9; // kJ/(kg K)
const WATER = 4.19; // kJ/(kg K)
/** kg water per kg dry peat that stays however long it is dried. */
const BOUND = 0.06;

/** Water that air can hold, kg per kg dry air. */
const saturation = (celsius) => {
  const pressure = 0.611 * Math.exp((17.27 * celsius) / (celsius + 237.3)); // kPa (Tetens 1930)
  return (0.622 * Math.min(pressure, 95)) / (101.3 - Math.min(pressure, 95));
};

function dry({ inlet, air, feed, moisture, speed, slope, flights, recycle, grain, ambient }) {
  const airFlow = air / 3.6; // kg/s
  const solids = ((feed / 3.6) * (100 - moisture)) / 100; // kg dry/s
  // How long it wanders: the steeper and faster the shorter, held back or carried by the air.
  const drag = 1 + 0.011 * (air - 36) - 0.004 * (grain - 9);
  const residence = (23 * LENGTH) / (speed ** 0.9 * Math.tan((slope * Math.PI) / 180) * 100 * DIAMETER * drag); // min
  const holdUp = solids * residence * 60; // kg dry
  // Flights shower peat through the air; with too many of them, or too full a drum, it falls in a lump.
  const fill = Math.min(0.4, holdUp / (140 * LENGTH * DIAMETER ** 2 * 0.785));
  const shower = (0.6 + 0.05 * flights - 0.0016 * flights ** 2) * (1 - ((fill - 0.13) / 0.34) ** 2) * (speed / 6) ** 0.35;
  const surface = (6 / (grain / 1000)) * 0.0021 * Math.max(0.08, shower); // m²/kg
  let water = moisture / (100 - moisture); // kg/kg dry
  let peat = ambient;
  let gas = inlet;
  let vapour = 0.007 + (recycle / 100) * 0.11; // kg/kg
  const share = holdUp / SLICES;
  for (let slice = 0; slice < SLICES; slice++) {
    const transfer = 0.036 * (airFlow / 10) ** 0.67; // kW/(m² K)
    const heat = transfer * surface * share * Math.max(0, gas - peat); // kW
    const free = Math.max(0, water - BOUND);
    // A dry skin slows it down, the more the coarser the grain.
    const open = free / (free + 0.055 + 0.012 * grain);
    const thirst = Math.max(0, 1 - vapour / saturation(Math.min(peat + 12, 99)));
    const warm = Math.min(1, Math.max(0, (peat - 15) / 45));
    const loss = Math.min((heat * open * thirst * warm) / LATENT, (free * solids) / 1.5); // kg/s
    water -= loss / solids;
    peat += (heat - loss * LATENT) / (solids * (SOLID + WATER * water));
    peat = Math.min(peat, gas);
    vapour += loss / airFlow;
    gas -= heat / (airFlow * (AIR + 1.9 * vapour)) + 0.011 * (gas - ambient) * (1 / SLICES) * 12;
  }
  const out = (100 * water) / (1 + water); // %
  const dryTonnes = (solids * 3.6 * (1 + water)) / 1; // t/h as it leaves
  const fresh = 1 - recycle / 100;
  const fuel = (airFlow * AIR * (fresh * (inlet - ambient) + (1 - fresh) * Math.max(0, inlet - gas)) * 3.6) / dryTonnes; // MJ/t
  const power = 9 + 0.052 * air ** 1.6 + (speed * (holdUp * (1 + water) + 2600)) / 1150 + 0.06 * recycle; // kW
  const dust = 1.1 + 26 * Math.exp(-out / 5.5) * (air / 36) ** 1.7 * (speed / 6) ** 0.8 * (9 / grain) ** 0.7; // g/m³
  const uneven = Math.abs(fill - 0.13) * 38 + 0.35 * Math.abs(flights - 12) + 0.42 * (grain - 4); // % beyond ±2
  return {
    wet: out,
    exhaust: gas,
    fuel,
    power,
    rate: dryTonnes,
    dust,
    uneven: Math.max(0.2, uneven + 22 * Math.exp(-residence / 7)),
    hottest: peat + 0.16 * Math.max(0, inlet - 300) * Math.exp(-out / 9),
  };
}

const { settings } = JSON.parse(readFileSync(0, "utf8"));
const missing = ["inlet", "air", "feed", "moisture", "speed", "slope", "flights", "recycle", "grain", "ambient"].filter(
  (name) => typeof settings?.[name] !== "number",
);
if (missing.length > 0) {
  console.error(`The dryer needs ${missing.join(", ")}.`);
  process.exit(1);
}
for (const [name, value] of Object.entries(dry(settings))) console.log(`${name}=${Number(value.toPrecision(8))}`);
