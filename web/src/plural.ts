/** A number of things: "1 day", "3 days". */
export const counted = (n: number, one: string, many = `${one}s`) =>
  `${n.toLocaleString("en")} ${n === 1 ? one : many}`;
