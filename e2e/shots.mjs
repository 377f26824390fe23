// One entry a picture: a name, an address, and what to do before it is taken.
const bench = "/bench/larch-lane-ic-443";
export const shots = [
  { name: "bench", path: `${bench}?row=1` },
  { name: "bench-filters", path: `${bench}?row=1&chart=filters` },
  { name: "bench-spectrum", path: `${bench}?row=1&chart=spectrum&moon=60_35_80` },
  { name: "bench-bandwidth", path: `${bench}?row=1&chart=bandwidth`, theme: "daylight" },
  { name: "comparisons", path: "/bench" },
  { name: "targets", path: "/targets?kind=supernova_remnant&object=IC+443" },
  { name: "shelf", path: "/shelf?kind=filter&id=uhc&compare=dual-7,uhc,sodium-notch" },
  { name: "shelf-camera", path: "/shelf?kind=camera&id=colour-26" },
];
