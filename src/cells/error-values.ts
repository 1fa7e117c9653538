/** What spreadsheets show in a cell whose formula gives nothing: words of ISO/IEC 29500-1 (18.17.3), newer ones, and those of programs in other languages. */
const ERRORS = new Set(
  (
    "#REF! #N/A #NAME? #VALUE! #DIV/0! #NUM! #NULL! #SPILL! #CALC! #FIELD! #BLOCKED! #UNKNOWN! #CONNECT! #BUSY! #GETTING_DATA #PYTHON! " +
    "#BEZUG! #NV #WERT! #ZAHL! #ÜBERLAUF! #VALEUR! #NOM? #NOMBRE! #¡REF! #¡VALOR! #¿NOMBRE? #¡DIV/0! #¡NUM! #¡NULO! #N/D #RIF! #VALORE! #NOME? #NUM.! #VERW! #WAARDE! #NAAM? #GETAL! #LEEG!"
  ).split(" "),
);

export function isErrorValue(text: string): boolean {
  return ERRORS.has(text) || /^Err:\d{3}$/.test(text);
}
