namespace WarySentinel.Service.Web;

/// <summary>The sign between the fields of a CSV file, which RFC 4180 says is a comma and half the world's spreadsheets a semicolon or tab.</summary>
public static class CsvSign
{
    private static readonly string[] Known = [",", ";", "\t"];

    /// <summary>The one that stands most often in the first line; the comma where none does.</summary>
    public static string Of(string firstLine) => Known.MaxBy(sign => firstLine.Split(sign).Length)!;
}
