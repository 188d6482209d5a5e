using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>Reads the bytes of an import as text, or says what they are instead.</summary>
public static class ImportText
{
    /// <summary>Most rows taken in one import.</summary>
    public const int MostRows = 1_000_000;

    /// <summary>Longest line that a catalogue could have.</summary>
    private const int LongestLine = 1 << 20;

    /// <summary>The text, without a byte order mark.</summary>
    public static Outcome<string> Decode(byte[] bytes)
    {
        if (bytes is [0xFF, 0xFE, ..] or [0xFE, 0xFF, ..])
        {
            return Bad("import.utf16", null);
        }

        var start = bytes is [0xEF, 0xBB, 0xBF, ..] ? 3 : 0;
        var zero = Array.IndexOf(bytes, (byte)0);
        if (zero >= 0)
        {
            return Bad("import.binary", LineOf(bytes, zero), zero + 1);
        }

        string text;
        try
        {
            text = new UTF8Encoding(false, true).GetString(bytes, start, bytes.Length - start);
        }
        catch (DecoderFallbackException fault)
        {
            var at = start + Math.Max(0, fault.Index);
            return Bad("import.not-utf8", LineOf(bytes, at), at + 1);
        }

        for (var from = 0; from < text.Length;)
        {
            var end = text.IndexOf('\n', from);
            end = end < 0 ? text.Length : end;
            if (end - from > LongestLine)
            {
                return Bad("import.line-too-long", text.AsSpan(0, from).Count('\n') + 1, LongestLine);
            }

            from = end + 1;
        }

        return text;
    }

    private static int LineOf(byte[] bytes, int at) => bytes.AsSpan(0, Math.Min(at, bytes.Length)).Count((byte)'\n') + 1;

    private static Problem Bad(string key, int? line, params object?[] values)
    {
        var text = Words.Of(key, values);
        return new Problem(ProblemKind.Invalid, key.Replace("import.", "import-", StringComparison.Ordinal), text, [new Fault("file", text, line, line is null ? null : 1)]);
    }
}

/// <summary>Reads items from CSV (RFC 4180): columns <c>id</c>, <c>title</c>, <c>parents</c>, <c>addresses</c>; several values parted by <c>|</c>.</summary>
public static class CsvRows
{
    private static readonly string[] Columns = ["id", "title", "parents", "addresses"];

    /// <summary>The rows, and what is wrong with those that could not be read.</summary>
    public static (List<ItemDraft> Rows, List<Fault> Faults) Read(string text, Action<int> progress)
    {
        var rows = new List<ItemDraft>();
        var faults = new List<Fault>();
        var firstLine = text.AsSpan(0, text.IndexOf('\n', StringComparison.Ordinal) is >= 0 and var end ? end : text.Length);
        var configuration = new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = firstLine.Count(';') > firstLine.Count(',') ? ";" : firstLine.Count('\t') > firstLine.Count(',') ? "\t" : ",",
            TrimOptions = TrimOptions.Trim,
            BadDataFound = null,
            MissingFieldFound = null,
            DetectColumnCountChanges = false,
        };
        using var csv = new CsvReader(new StringReader(text), configuration);
        if (!csv.Read() || !csv.ReadHeader() || csv.HeaderRecord is not { } header || !ReadHeader(header, faults, out var places))
        {
            if (faults.Count == 0)
            {
                faults.Add(new Fault("file", Words.Of("import.no-header"), 1, 1));
            }

            return (rows, faults);
        }

        try
        {
            var line = csv.Parser.RawRow + 1;
            while (csv.Read())
            {
                string? At(int column) => places[column] >= 0 && places[column] < csv.Parser.Count ? csv.GetField(places[column]) : null;
                if (csv.Parser.Count > header.Length)
                {
                    faults.Add(new Fault("row", Words.Of("import.bad-row", $"{csv.Parser.Count} fields under {header.Length} columns"), line, header.Length + 1));
                }
                else
                {
                    rows.Add(new ItemDraft(At(0), At(1), Parts(At(2)), Parts(At(3)), line));
                }

                line = csv.Parser.RawRow + 1;
                if (rows.Count % 10_000 == 0)
                {
                    progress(rows.Count);
                }

                if (rows.Count > ImportText.MostRows || faults.Count > ItemCommands.MostFaults)
                {
                    faults.Add(new Fault("file", Words.Of("import.too-many-rows", ImportText.MostRows), line));
                    break;
                }
            }
        }
        catch (CsvHelperException fault)
        {
            faults.Add(new Fault("row", Words.Of("import.bad-row", fault.Message.Split('\n')[0]), csv.Parser.RawRow, 1));
        }

        return (rows, faults);
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
                    "header", near is null ? Words.Of("import.unknown-column", shown) : Words.Of("import.unknown-column-near", shown, near), 1, i + 1));
            }
        }

        return faults.Count == 0 && places[0] >= 0 && places[1] >= 0;
    }

    private static string[] Parts(string? field) =>
        string.IsNullOrWhiteSpace(field) ? [] : field.Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
}
