/** The laws for XML. */
import fc from "fast-check";
import { SaxesParser } from "saxes";
import { describeLaws } from "../support/laws.js";
import { anyXml, xmlRecords } from "../support/xml-docs.js";

describeLaws({
  name: "document.xml",
  anything: fc.oneof(xmlRecords, anyXml),
  records: xmlRecords,
  slack: 40,
  emptyText: "(empty)",
  wellFormed: (text) => {
    const parser = new SaxesParser({ xmlns: false });
    parser.on("error", (error) => {
      throw error;
    });
    parser.ENTITIES.own = "our <own>";
    parser.write(text.replace(/^\ufeff/, "")).close();
  },
});
