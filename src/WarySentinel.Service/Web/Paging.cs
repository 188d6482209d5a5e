using System.Text;
using WarySentinel.Contract;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>Cursors and versions.</summary>
public static class Paging
{
    /// <summary>Entries of a page unless the caller says otherwise.</summary>
    public const int Usual = 100;

    /// <summary>Most entries of a page.</summary>
    public const int Most = 1000;

    /// <summary>How many entries the caller gets.</summary>
    public static int SizeOf(int? limit) => Math.Clamp(limit ?? Usual, 1, Most);

    /// <summary>The cursor after an entry.</summary>
    public static string CursorAfter(string key) => System.Buffers.Text.Base64Url.EncodeToString(Encoding.UTF8.GetBytes(key));

    /// <summary>The entry that a cursor stands after; null for the first page.</summary>
    public static Outcome<string> Read(string? cursor)
    {
        if (string.IsNullOrEmpty(cursor))
        {
            return "";
        }

        try
        {
            return Encoding.UTF8.GetString(System.Buffers.Text.Base64Url.DecodeFromChars(cursor));
        }
        catch (FormatException)
        {
            return Problem.In("cursor", "cursor");
        }
    }

    /// <summary>How a place in a list by time is written in a cursor.</summary>
    public static string PlaceOf(DateTimeOffset at, Guid id) => $"{at.UtcTicks} {id:N}";

    /// <summary>The place that was written so; null for the first page, or what says none.</summary>
    public static (DateTimeOffset At, Guid Id)? PlaceIn(string written) => written.Split(' ') is [var ticks, var id]
        && long.TryParse(ticks, System.Globalization.CultureInfo.InvariantCulture, out var at) && at is > 0 and < 3_000_000_000_000_000_000
        && Guid.TryParse(id, out var named) ? (new DateTimeOffset(at, TimeSpan.Zero), named) : null;

    /// <summary>Cuts one entry too many off a list and makes a page of it.</summary>
    public static PageOf<T> Cut<T>(IReadOnlyList<T> oneMore, int size, Func<T, string> key) =>
        oneMore.Count > size ? new([.. oneMore.Take(size)], CursorAfter(key(oneMore[size - 1]))) : new(oneMore, null);

    /// <summary>The entity tag of a version (RFC 9110 §8.8.3).</summary>
    public static string TagOf(int version) => $"\"{version}\"";

    /// <summary>The version that <c>If-Match</c> names: null for any (<c>*</c>), a problem where the header is missing or odd.</summary>
    public static Outcome<int?> VersionIn(HttpRequest request)
    {
        var header = request.Headers.IfMatch.ToString().Trim();
        if (header == "*")
        {
            return (int?)null;
        }

        return header.Length > 2 && int.TryParse(header.Trim('"'), out var version)
            ? (int?)version
            : Problem.Of(ProblemKind.Invalid, "precondition");
    }
}
