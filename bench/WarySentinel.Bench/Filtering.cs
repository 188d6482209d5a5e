using System.Buffers;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using WarySentinel.Core.Markup;

namespace WarySentinel.Bench;

/// <summary>The streaming filter over a page of 100 KB, in pieces of 16 KB.</summary>
internal static class Filtering
{
    /// <summary>The runtime compiles what runs often anew, several times: so many pages go before those that are measured.</summary>
    private const int WarmUps = 3000;

    public static string Page(int bytes)
    {
        var page = new StringBuilder("<!doctype html><html><head><title>Bench</title></head><body><nav><ul>");
        for (var n = 0; n < 40; n++)
        {
            page.Append(CultureInfo.InvariantCulture, $"<li><a href=\"/shop/c{n}\">Shelf {n}</a></li>");
        }

        page.Append("</ul></nav><main><ul class=\"cards\">");
        for (var n = 0; page.Length < bytes; n++)
        {
            page.Append(CultureInfo.InvariantCulture,
                $"<li class=\"card\"><a href=\"/product/p{n}\"><img src=\"/i/{n}.png\" alt=\"\"><span>Product number {n}</span></a><p>Some words that say "
                    + $"what it is good for.</p></li>\n");
        }

        return page.Append("</ul></main></body></html>").ToString();
    }

    public static void Run()
    {
        var page = Encoding.UTF8.GetBytes(Page(100 * 1024));
        var output = new ArrayBufferWriter<byte>(page.Length * 2);
        var runs = new List<double>();
        for (var run = 0; run < WarmUps + 1000; run++)
        {
            output.ResetWrittenCount();
            var filter = MarkupFilter.OfHtml(new EveryTenth());
            var began = Stopwatch.GetTimestamp();
            for (var at = 0; at < page.Length; at += 16 * 1024)
            {
                filter.Write(page.AsSpan(at, Math.Min(16 * 1024, page.Length - at)), at + (16 * 1024) >= page.Length, output);
            }

            runs.Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds);
        }

        runs = [.. runs.Skip(WarmUps).Order()];
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"HTML filter, {page.Length / 1024} KB with one link in ten hidden: {runs[0]:F2} / {runs[runs.Count / 2]:F2} / {runs[^1]:F2} ms (min/med/max), "
                + $"{output.WrittenCount / 1024} KB out"));
    }

    private sealed class EveryTenth : IMarkupDecider
    {
        public bool May(string item, string act) => true;

        public ReadOnlySpan<byte> Form(string name, string? to) => default;

        public ReadOnlySpan<byte> Mark => default;

        public ReadOnlySpan<byte> AfterBody => default;

        public bool KeepsHiddenWords => true;

        public ReadOnlySpan<byte> HiddenMark => default;

        public void TooLarge()
        {
        }

        public Fate OfLink(string href) => href.EndsWith('7') ? Fate.Drop : Fate.Keep;

        public bool MayList(string item) => true;

        public bool Admits(string audience) => true;

        public void SetBase(string href)
        {
        }
    }
}
