using System.Buffers;
using System.Collections.Concurrent;
using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>
/// The filter on pages that nobody here wrote, with addresses hidden at random: what is gone is exactly what is hidden, and a page with nothing hidden is the
/// origin's, byte for byte.
/// </summary>
public sealed class RealPageTests
{
    private static readonly int LeastPages = Trials.Of(500, RealPages.All.Count);

    [Fact]
    public void What_is_gone_of_real_pages_is_exactly_what_is_hidden()
    {
        // Some of them, spread over all packages; every one, eleven thousand, in the long form.
        var step = Math.Max(1, RealPages.All.Count / LeastPages);
        var pages = RealPages.All.Where((_, at) => at % step == 0).ToList();
        pages.Count.ShouldBeGreaterThanOrEqualTo(LeastPages);
        var (wrong, read) = (new ConcurrentBag<string>(), 0);
        Parallel.ForEach(pages, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, path =>
        {
            if (Encoding.UTF8.GetString(File.ReadAllBytes(path)) is var page && FaultOf(page, path) is { } fault)
            {
                wrong.Add($"{path}: {fault}");
            }

            Interlocked.Increment(ref read);
        });
        wrong.Count.ShouldBe(0, $"of {read} pages:\n" + string.Join('\n', wrong.Order().Take(14)));
    }

    private static string? FaultOf(string page, string path)
    {
        if (Filter(page, _ => false, 4096) != page)
        {
            return "a page with nothing hidden was changed";
        }

        var seed = StringComparer.Ordinal.GetHashCode(Path.GetFileName(path)) is var _ ? Path.GetFileName(path).Sum(c => c) : 0;
        // One address in seven is hidden, by its letters alone.
        bool IsHidden(string href) => PlainReading.IsPage(href) && href.Split('#')[0] is { Length: > 0 } address && (address.Sum(c => c * 31) + seed) % 7 == 0;
        var filtered = Filter(page, IsHidden, 1000);
        var left = new HtmlParser().ParseDocument(filtered).DocumentElement;
        var (links, words) = PlainReading.Of(page, IsHidden);
        if (left.QuerySelectorAll("a[href], area[href], link[href]").FirstOrDefault(a => IsHidden(a.GetAttribute("href")!)) is { } shown)
        {
            return "a hidden link stayed: " + shown.OuterHtml[..Math.Min(160, shown.OuterHtml.Length)];
        }

        var (leftLinks, leftWords) = PlainReading.Of(filtered, _ => false);
        return Difference("links", links, leftLinks) ?? Difference("words", words, leftWords);
    }

    private static string? Difference(string what, IReadOnlyList<string> expected, IReadOnlyList<string> actual)
    {
        for (var at = 0; at < Math.Max(expected.Count, actual.Count); at++)
        {
            if (at >= expected.Count || at >= actual.Count || expected[at] != actual[at])
            {
                var from = Math.Max(0, at - 8);
                return $"{what} differ at {at} of {expected.Count}: expected … {string.Join(' ', expected.Skip(from).Take(16))} …, found … "
                    + $"{string.Join(' ', actual.Skip(from).Take(16))} …";
            }
        }

        return null;
    }

    private static string Filter(string page, Func<string, bool> isHidden, int piece)
    {
        var filter = MarkupFilter.OfHtml(new Hiding(isHidden));
        var (output, bytes) = (new ArrayBufferWriter<byte>(page.Length), Encoding.UTF8.GetBytes(page));
        for (var at = 0; at < bytes.Length; at += piece)
        {
            filter.Write(bytes.AsSpan(at, Math.Min(piece, bytes.Length - at)), false, output);
        }

        filter.Write([], true, output);
        return Encoding.UTF8.GetString(output.WrittenSpan);
    }

    /// <summary>Hides addresses, and nothing else.</summary>
    private sealed class Hiding(Func<string, bool> isHidden) : IMarkupDecider
    {
        public bool KeepsHiddenWords => true;

        public ReadOnlySpan<byte> HiddenMark => default;

        public ReadOnlySpan<byte> Mark => default;

        public ReadOnlySpan<byte> AfterBody => default;

        public Fate OfLink(string href) => isHidden(href) ? Fate.Drop : Fate.Keep;

        public bool MayList(string item) => true;

        public bool May(string item, string act) => true;

        public ReadOnlySpan<byte> Form(string name, string? to) => default;

        public bool Admits(string audience) => true;

        public void SetBase(string href)
        {
        }

        public void TooLarge()
        {
        }
    }
}
