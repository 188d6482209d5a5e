using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.Hosted;

/// <summary>What files a hosted page may have, and by which media type they go out.</summary>
public static class PageFiles
{
    /// <summary>Largest file, in bytes.</summary>
    public const int MostBytes = 20 << 20;

    /// <summary>Most files of one page.</summary>
    public const int MostOfPage = 200;

    /// <summary>Most bytes of the files of all pages.</summary>
    public const long MostOfAll = 2L << 30;

    private const int LongestName = 100;

    private static readonly Dictionary<string, string> Media = new(StringComparer.Ordinal)
    {
        ["png"] = "image/png", ["jpg"] = "image/jpeg", ["jpeg"] = "image/jpeg", ["gif"] = "image/gif", ["webp"] = "image/webp", ["avif"] = "image/avif",
        ["svg"] = "image/svg+xml", ["pdf"] = "application/pdf", ["zip"] = "application/zip", ["txt"] = "text/plain; charset=utf-8",
        ["csv"] = "text/csv; charset=utf-8", ["ics"] = "text/calendar; charset=utf-8", ["json"] = "application/json", ["mp3"] = "audio/mpeg",
        ["m4a"] = "audio/mp4", ["ogg"] = "audio/ogg", ["mp4"] = "video/mp4", ["webm"] = "video/webm", ["epub"] = "application/epub+zip",
    };

    /// <summary>Whether a link's target is the name of a file beside the page: letters, digits, dots, dashes and underscores, with an ending we know.</summary>
    public static bool IsName(string name) => name.Length is > 0 and <= LongestName && char.IsAsciiLetterOrDigit(name[0])
        && name.All(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '-' or '_') && MediaOf(name) is not null;

    /// <summary>The media type (RFC 6838) of a name; null where the ending is none that we know.</summary>
    public static string? MediaOf(string name) => Media.GetValueOrDefault(Path.GetExtension(name).TrimStart('.').ToLowerInvariant());

    /// <summary>Whether browsers may show it where it stands, and not only keep it.</summary>
    public static bool IsShown(string type) => type.StartsWith("image/", StringComparison.Ordinal) || type.StartsWith("audio/", StringComparison.Ordinal)
        || type.StartsWith("video/", StringComparison.Ordinal) || type == "application/pdf";

    /// <summary>Puts a file beside a page, in place of one of that name.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="page">The page.</param>
    /// <param name="name">The name of the file.</param>
    /// <param name="content">All of it.</param>
    /// <param name="around">What else counts.</param>
    public static Outcome<Edit<PageFile>> Put(Policy policy, string page, string name, byte[] content, HostedSurroundings around)
    {
        if (HostedBook.Of(policy).Page(page) is null)
        {
            return Problem.Of(ProblemKind.NotFound, "page-unknown-hosted", page);
        }

        if (!IsName(name))
        {
            return Problem.In("name", "page-file-name", name, string.Join(", ", Media.Keys));
        }

        if (content.Length is 0 or > MostBytes)
        {
            return Problem.In("file", "page-file-size", MostBytes >> 20);
        }

        var ending = Path.GetExtension(name).TrimStart('.').ToLowerInvariant();
        if (FileTypes.IsKnown(ending == "jpeg" ? "jpg" : ending) && FileTypes.Of(name, content, null) is null)
        {
            return Problem.In("file", "page-file-kind", name, ending);
        }

        var file = new PageFile(page, name, MediaOf(name)!, content, around.By, around.Now);
        return new Edit<PageFile>(new Edit("page.file", page, [new PageFilePut(file)], null, name), file);
    }

    /// <summary>Drops a file.</summary>
    public static Outcome<Edit<bool>> Drop(string page, string name) =>
        new Edit<bool>(new Edit("page.file-remove", page, [new PageFileDropped(page, name)], name), true);
}
