// The chemistries and forms of cells as they are called on the screen.
export const CHEMISTRIES = [
  ["lithium-ion", "lithium-ion"],
  ["lithium-iron-phosphate", "lithium iron phosphate"],
  ["nickel-metal-hydride", "nickel-metal-hydride"],
  ["alkaline", "alkaline"],
  ["lithium-coin", "lithium coin"],
  ["lithium-manganese", "lithium / manganese dioxide"],
  ["lithium-iron-disulfide", "lithium / iron disulfide"],
  ["lithium-thionyl", "lithium / thionyl chloride"],
  ["super-capacitor", "super-capacitor"],
  ["alkaline-block", "alkaline, 9 V block"],
  ["silver-oxide", "silver oxide"],
  ["zinc-air", "zinc-air"],
  ["lead-acid", "lead-acid, sealed"],
  ["lithium-titanate", "lithium titanate"],
] as const;

export const FORMS = [
  ["pouch", "pouch"],
  ["cylinder", "cylinder"],
  ["coin", "coin"],
  ["box", "box"],
] as const;
