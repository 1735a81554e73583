/** A number as the table keeps it to compare numbers: its count of digits in three, then its digits. */
export const numberKey = (decimal: string): string => {
  const digits = decimal.replace(/^0+(?=\d)/, '');
  return String(digits.length).padStart(3, '0') + digits;
};
