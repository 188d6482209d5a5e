using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Pages;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Pages;
using WarySentinel.Service.Web;
using static System.Net.WebUtility;

namespace WarySentinel.Service.Hosted;

/// <summary>What a page tells visitors of themselves. A place is kept for it in a page that many get, and filled for each by itself.</summary>
internal static class HostedFacts
{
    // Nobody who writes a page knows it.
    private static readonly string Secret = Convert.ToHexString(RandomNumberGenerator.GetBytes(16));
    private static readonly byte[] Opens = Encoding.ASCII.GetBytes($"<!--{Secret}:");
    private static readonly byte[] Closes = "-->"u8.ToArray();

    /// <summary>The place that is kept.</summary>
    public static string HoleOf(string names) => $"<!--{Secret}:{string.Join('+', names.Split(' ', StringSplitOptions.RemoveEmptyEntries))}-->";

    /// <summary>The page with what a visitor is told in its places; nothing for guests.</summary>
    public static byte[] Filled(ReadOnlySpan<byte> html, Policy policy, Visitor visitor, DateTimeOffset now)
    {
        using var filled = new MemoryStream(html.Length + 512);
        for (var at = html.IndexOf(Opens); at >= 0; at = html.IndexOf(Opens))
        {
            filled.Write(html[..at]);
            html = html[(at + Opens.Length)..];
            var end = html.IndexOf(Closes);
            filled.Write(Encoding.UTF8.GetBytes(Of(Encoding.UTF8.GetString(html[..end]).Split('+', StringSplitOptions.RemoveEmptyEntries), policy, visitor,
                now)));
            html = html[(end + Closes.Length)..];
        }

        filled.Write(html);
        return filled.ToArray();
    }

    private static string Of(string[] names, Policy policy, Visitor visitor, DateTimeOffset now)
    {
        if (!visitor.IsSignedIn)
        {
            return "";
        }

        var held = AccountMenu.HeldBy(policy, visitor, now, Reader.Book);
        var dates = new SiteDates(policy.Settings.TimeZone);
        var said = (names.Length == 0 ? PageTextReader.OwnFacts : names).Select(name => (name, Values: name switch
        {
            "name" => [visitor.Name],
            "email" => [visitor.Email],
            "roles" => Titles(held, FactKind.Role, dates),
            "groups" => Titles(held, FactKind.Group, dates),
            "plans" => Titles(held, FactKind.Plan, dates),
            _ => [],
        })).Where(f => f.Values.Any(v => !string.IsNullOrEmpty(v)));
        return string.Create(CultureInfo.InvariantCulture, $"""
            <dl class="facts">{string.Concat(said.Select(f => $"<dt>{HtmlEncode(PageWords.Of("hosted.fact-" + f.name))}</dt>{string.Concat(
                f.Values.Select(v => $"<dd>{HtmlEncode(v)}</dd>"))}"))}</dl>
            """);
    }

    private static List<string?> Titles(IReadOnlyList<HeldTitle> held, FactKind kind, SiteDates dates) =>
        [.. held.Where(h => h.Kind == kind).Select(h => h.Until is { } end ? $"{h.Title}, {PageWords.Of("account.until", Page.Day(dates, end, true))}"
            : h.Title)];
}
