/** How the axes of every plot are lettered and ruled. */
export const lettering = {
  "& .MuiChartsAxis-tickLabel": { fontFamily: "var(--mono) !important", fontSize: "15px !important", fill: "var(--ink)" },
  "& .MuiChartsAxis-label": { fontSize: "14px !important", fill: "var(--ink) !important" },
  "& .MuiChartsAxis-line, & .MuiChartsAxis-tick": { stroke: "var(--older)" },
  "& .MuiChartsGrid-line": { stroke: "var(--grid)", strokeWidth: 1 },
};
