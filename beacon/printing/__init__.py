"""The papers of records: certificate, work sheets, stickers, labels and cards, made from the record alone."""
