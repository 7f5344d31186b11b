export const after = (value, { args: { unit } = {} } = {}) => `${value}${unit ? ` ${unit}` : ""}`;
