package source

import (
	"archive/zip"
	"encoding/xml"
	"errors"
	"io"
	"path"
	"strings"
)

// hiddenColumns are the columns of a sheet, from 0, that nobody sees who has the workbook open. They stand at the head of the sheet's part,
// before its rows; what cannot be found there is nobody's concern but that of whoever reads the sheet.
func hiddenColumns(file *Spool, sheet string) (hidden []int) {
	archive, err := zip.NewReader(file.reader, file.size)
	if err != nil {
		return nil
	}
	var book struct {
		Sheets []struct {
			Name string `xml:"name,attr"`
			ID   string `xml:"http://schemas.openxmlformats.org/officeDocument/2006/relationships id,attr"`
		} `xml:"sheets>sheet"`
	}
	var relations struct {
		All []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	if decodePart(archive, "xl/workbook.xml", &book) != nil || decodePart(archive, "xl/_rels/workbook.xml.rels", &relations) != nil {
		return nil
	}
	for _, s := range book.Sheets {
		for _, r := range relations.All {
			if s.Name != sheet || s.ID != r.ID {
				continue
			}
			target := path.Join("xl", r.Target)
			if strings.HasPrefix(r.Target, "/") {
				target = strings.TrimPrefix(r.Target, "/")
			}
			return hiddenIn(archive, target)
		}
	}
	return nil
}

// mostOfPart bounds what is read of a part that lists the sheets.
const mostOfPart = 1 << 20

func decodePart(archive *zip.Reader, name string, into any) error {
	part, err := archive.Open(name)
	if err != nil {
		return err
	}
	defer part.Close()
	return xml.NewDecoder(io.LimitReader(part, mostOfPart)).Decode(into)
}

// hiddenIn reads a sheet's part as far as its rows.
func hiddenIn(archive *zip.Reader, name string) (hidden []int) {
	part, err := archive.Open(name)
	if err != nil {
		return nil
	}
	defer part.Close()
	decoder := xml.NewDecoder(io.LimitReader(part, mostOfPart))
	for {
		token, err := decoder.Token()
		if err != nil {
			return hidden
		}
		start, is := token.(xml.StartElement)
		if is && start.Name.Local == "sheetData" {
			return hidden
		}
		if !is || start.Name.Local != "col" {
			continue
		}
		var column struct {
			Min    int  `xml:"min,attr"`
			Max    int  `xml:"max,attr"`
			Hidden bool `xml:"hidden,attr"`
		}
		if err := decoder.DecodeElement(&column, &start); err != nil && !errors.Is(err, io.EOF) {
			return hidden
		}
		for c := max(1, column.Min); column.Hidden && c <= min(column.Max, mostColumns); c++ {
			hidden = append(hidden, c-1)
		}
	}
}
