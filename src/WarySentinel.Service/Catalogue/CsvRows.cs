using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Catalogue;

/// <summary>Reads items from CSV (RFC 4180): columns <c>id</c>, <c>title</c>, <c>parents</c>, <c>addresses</c>; several values parted by <c>|</c>.</summary>
public static class CsvRows
{
    private static readonly string[] Columns = ["id", "title", "parents", "addresses"];

    /// <summary>The rows, and what is wrong with those that could not be read.</summary>
    /// <param name="text">The file, from its beginning.</param>
    /// <param name="firstLine">Its first line, by which the sign between fields is told.</param>
    /// <param name="progress">Told the number of rows read so far.</param>
    /// <param name="cancellationToken">Stops the reading.</param>
    public static (List<ItemDraft> Rows, List<Fault> Faults) Read(TextReader text, string firstLine, Action<int> progress, CancellationToken cancellationToken)
    {
        var (rows, faults) = (new List<ItemDraft>(), new List<Fault>());
        var configuration = new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = CsvSign.Of(firstLine), TrimOptions = TrimOptions.Trim, BadDataFound = null, MissingFieldFound = null, DetectColumnCountChanges = false,
        };
        using var csv = new CsvReader(text, configuration, true);
        if (!csv.Read() || !csv.ReadHeader() || csv.HeaderRecord is not { } header || !ReadHeader(header, faults, out var places))
        {
            return (rows, faults.Count > 0 ? faults : [new Fault("file", Wording.Of("import.no-header"), 1, 1)]);
        }

        try
        {
            ReadRows(csv, header.Length, places, rows, faults, progress, cancellationToken);
        }
        catch (CsvHelperException fault)
        {
            faults.Add(new Fault("row", Wording.Of("import.bad-row", fault.Message.Split('\n')[0]), csv.Parser.RawRow, 1));
        }

        return (rows, faults);
    }

    private static void ReadRows(
        CsvReader csv, int columns, int[] places, List<ItemDraft> rows, List<Fault> faults, Action<int> progress, CancellationToken stop)
    {
        string? At(int column) => places[column] >= 0 && places[column] < csv.Parser.Count ? csv.GetField(places[column]) : null;
        for (var line = csv.Parser.RawRow + 1; csv.Read(); line = csv.Parser.RawRow + 1)
        {
            if (csv.Parser.Count > columns)
            {
                faults.Add(new Fault("row", Wording.Of("import.bad-row", Wording.Of("import.fields", csv.Parser.Count, columns)), line, columns + 1));
            }
            else
            {
                rows.Add(new ItemDraft(At(0), At(1), Parts(At(2)), Parts(At(3)), line));
            }

            if (rows.Count % 10_000 == 0)
            {
                stop.ThrowIfCancellationRequested();
                progress(rows.Count);
            }

            if (rows.Count > ImportText.MostRows || faults.Count > ItemCommands.MostFaults)
            {
                faults.Add(new Fault("file", Wording.Of("import.too-many-rows", ImportText.MostRows), csv.Parser.RawRow + 1));
                return;
            }
        }
    }

    private static bool ReadHeader(string[] header, List<Fault> faults, out int[] places)
    {
        var names = Array.ConvertAll(header, h => h.Trim().ToLowerInvariant());
        places = Array.ConvertAll(Columns, c => Array.IndexOf(names, c));
        for (var i = 0; i < names.Length && faults.Count < 10; i++)
        {
            if (!Columns.Contains(names[i]))
            {
                var shown = names[i].Length > 40 ? names[i][..40] + "…" : names[i];
                var near = Nearest.To(names[i], Columns);
                faults.Add(new Fault(
                    "header", near is null ? Wording.Of("import.unknown-column", shown) : Wording.Of("import.unknown-column-near", shown, near), 1, i + 1));
            }
        }

        return faults.Count == 0 && places[0] >= 0 && places[1] >= 0;
    }

    private static string[] Parts(string? field) =>
        string.IsNullOrWhiteSpace(field) ? [] : field.Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
}
