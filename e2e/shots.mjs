// One entry a picture: a name, an address, and what to do before it is taken.
export const shots = [
  { name: "bench", path: "/bench/larch-lane-ic-443?row=1" },
  { name: "comparisons", path: "/bench" },
];
