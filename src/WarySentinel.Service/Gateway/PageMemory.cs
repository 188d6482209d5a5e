using System.Security.Cryptography;
using System.Text;
using Microsoft.Extensions.Caching.Memory;
using Microsoft.Extensions.Primitives;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Entries;

namespace WarySentinel.Service.Gateway;

/// <summary>
/// Pages that were filtered, by the origin's tag and by every answer that went into them: whoever gets the same answers gets the same bytes, for the price of
/// the answers. Only as long as the same is in force (docs/explanation/filter.md, “What is remembered”).
/// </summary>
internal sealed class PageMemory : IDisposable
{
    private const long MostBytes = 64 << 20;
    private const int MostVariants = 8;
    private readonly MemoryCache pages = new(new MemoryCacheOptions { SizeLimit = MostBytes });

    /// <summary>A page as it went out.</summary>
    /// <param name="Answers">What was asked of the visitor, with the answers.</param>
    /// <param name="Body">What went out, in its coding.</param>
    /// <param name="Tag">Our tag for it.</param>
    public sealed record Variant(Asked[] Answers, byte[] Body, string Tag);

    /// <summary>What is remembered of an address.</summary>
    /// <param name="Stamp">What was in force.</param>
    /// <param name="OriginTag">The origin's tag.</param>
    /// <param name="Coding">The coding in which it came, and goes out.</param>
    /// <param name="IsForAnybody">Whether the origin says that it is the same for whoever asks.</param>
    /// <param name="Headers">What the origin said beside.</param>
    /// <param name="Variants">The pages made of it.</param>
    public sealed record Page(
        WeakReference Stamp, string OriginTag, string? Coding, bool IsForAnybody, IReadOnlyList<KeyValuePair<string, StringValues>> Headers,
        IReadOnlyList<Variant> Variants)
    {
        /// <summary>The page for a visitor; null where none was made with the same answers.</summary>
        public Variant? For(Policy policy, Visitor visitor, DateTimeOffset now) =>
            Variants.FirstOrDefault(v => Array.TrueForAll(v.Answers, a => a.IsSameFor(policy, visitor, now)));
    }

    /// <summary>What is remembered for a request, if it can take it.</summary>
    public Page? Find(ProxiedRequest passage, HttpRequest request, object stamp)
    {
        var accepted = request.Headers.AcceptEncoding.ToString();
        var found = !passage.IsTold && Kept(KeyOf(passage, request, false)) is { IsForAnybody: true } common ? common : Kept(KeyOf(passage, request, true));
        return found is not null && ReferenceEquals(found.Stamp.Target, stamp)
            && (found.Coding is null || accepted.Contains(found.Coding, StringComparison.OrdinalIgnoreCase)) ? found : null;
    }

    /// <summary>Remembers a page that went out.</summary>
    public void Note(ProxiedRequest passage, HttpRequest request, Page page)
    {
        var key = KeyOf(passage, request, !page.IsForAnybody);
        if (Kept(key) is { } before && ReferenceEquals(before.Stamp.Target, page.Stamp.Target) && before.OriginTag == page.OriginTag
            && before.Coding == page.Coding)
        {
            page = page with { Variants = [.. page.Variants, .. before.Variants.Take(MostVariants - 1)] };
        }

        // An answer holds a path and its segments; an item its name.
        var size = page.Variants.Sum(v => v.Body.Length + (200L * v.Answers.Length)) + 2000;
        pages.Set(key, page, new MemoryCacheEntryOptions { Size = size, SlidingExpiration = TimeSpan.FromHours(1) });
    }

    private Page? Kept(string key) => pages.Get<Page>(key);

    /// <summary>Who asks matters as far as the origin can tell: by the cookies and credentials that it is sent, and by what we tell it.</summary>
    private static string KeyOf(ProxiedRequest passage, HttpRequest request, bool byWho)
    {
        var address = $"{request.Scheme}://{request.Host}{passage.Path.SentWithQuery}";
        if (!byWho || passage.WhoForOrigin.Length == 0)
        {
            return address;
        }

        return address + "\n" + Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(passage.WhoForOrigin)));
    }

    /// <inheritdoc/>
    public void Dispose() => pages.Dispose();
}
