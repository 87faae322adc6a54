import type { ConfigurationShape } from "../../api/client";
import type { ModuleChoice } from "../../marks/SlotMap";

/** What sits in the slots of a configuration, for the slot map. */
export function modulesOf(configuration: ConfigurationShape): Record<string, ModuleChoice | undefined> {
  return Object.fromEntries(
    configuration.fitted
      .filter((fit) => fit.place.startsWith("slot ") && fit.part !== null)
      .map((fit) => [
        fit.place.slice(5),
        { part: fit.part ?? 0, module: fit.module ?? 1, words: `${fit.name}, no. ${fit.module ?? 1}` },
      ]),
  );
}
