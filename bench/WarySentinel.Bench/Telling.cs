using System.Buffers.Binary;
using System.Diagnostics;
using System.Globalization;
using System.Numerics;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;

namespace WarySentinel.Bench;

/// <summary>
/// What the time of an answer tells of whether somebody has an account: each page is asked for addresses that have one and for addresses that have none, in
/// a random order, one after the other, each address once and each from a network of its own.
/// </summary>
internal sealed partial class Telling(string site)
{
    private static readonly HttpClient Http = new(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false });
    private readonly Random random = new(31);
    private const string NewAddress = "/account/address";
    private int network;
    private int askers;

    private enum Of
    {
        There,
        Nobody,
    }

    /// <summary>The address of the account with that number, as bench/telling.sh adds them.</summary>
    public static string AddressOf(int number) => $"there{number:d5}@telling.example";

    /// <summary>Asks each page.</summary>
    /// <param name="count">How many addresses of each sort.</param>
    /// <param name="first">The first account that was not used before.</param>
    /// <param name="only">What stands in the addresses of the pages to ask; empty for all.</param>
    public async Task RunAsync(int count, int first, string only)
    {
        var at = first;
        foreach (var (page, fields) in new (string, Func<string, string, Dictionary<string, string>>)[]
        {
            ("/account/sign-in", (address, _) => new() { ["name"] = address, ["password"] = "not-the-one-of-anybody" }),
            ("/account/password/forgotten", (address, _) => new() { ["name"] = address }),
            ("/account/sign-in/letter", (address, _) => new() { ["name"] = address }),
            ("/account/register", (address, html) => new()
            {
                ["name"] = "Ada Quill", ["email"] = address, ["password"] = "a-ladder-in-the-orchard", ["seal"] = Seal().Match(html).Groups[1].Value,
                ["work"] = WorkOf(html),
            }),
            (NewAddress, (address, _) => new() { ["email"] = address }),
        })
        {
            if (page.Contains(only, StringComparison.Ordinal))
            {
                await PageAsync(page, fields, count, at);
                at += count;
            }
        }
    }

    /// <summary>Signs somebody in; gives the cookies that say so.</summary>
    private async Task<string> SignedInAsync(int number, string from)
    {
        var (html, cookie) = await FormAsync("/account/sign-in", from, "");
        var who = new Dictionary<string, string> { ["name"] = AddressOf(number), ["password"] = $"a-lantern-in-the-{number:d5}-orchard" };
        using var answer = await SendAsync("/account/sign-in", from, cookie, html, who);
        return CookiesOf(answer);
    }

    private async Task<(string Html, string Cookies)> FormAsync(string page, string from, string cookies)
    {
        using var look = new HttpRequestMessage(HttpMethod.Get, site + page) { Headers = { { "X-Forwarded-For", from } } };
        look.Headers.TryAddWithoutValidation("Cookie", cookies);
        using var form = await Http.SendAsync(look);
        return (await form.Content.ReadAsStringAsync(), string.Join("; ", new[] { cookies, CookiesOf(form) }.Where(c => c.Length > 0)));
    }

    private Task<HttpResponseMessage> SendAsync(string page, string from, string cookies, string html, Dictionary<string, string> fields)
    {
        fields["__RequestVerificationToken"] = Token().Match(html).Groups[1].Value;
        var send = new HttpRequestMessage(HttpMethod.Post, site + page) { Content = new FormUrlEncodedContent(fields) };
        send.Headers.Add("X-Forwarded-For", from);
        send.Headers.TryAddWithoutValidation("Cookie", cookies);
        return Http.SendAsync(send);
    }

    private static string CookiesOf(HttpResponseMessage answer) =>
        answer.Headers.TryGetValues("Set-Cookie", out var set) ? string.Join("; ", set.Select(c => c.Split(';')[0])) : "";

    private async Task PageAsync(string page, Func<string, string, Dictionary<string, string>> fields, int count, int first)
    {
        // The first few are the compiler's.
        List<(Of Of, string Address)> all = [.. Enumerable.Range(0, count).Select(n => (Of.There, AddressOf(first + n)))];
        all.AddRange(Enumerable.Range(0, count).Select(n => (Of.Nobody, $"nobody{first + n:d5}@telling.example")));
        var (asked, answers) = (all.ToArray(), new HashSet<string>());
        random.Shuffle(asked);
        var times = new Dictionary<Of, List<double>> { [Of.There] = [], [Of.Nobody] = [] };
        foreach (var chunk in asked.Chunk(20))
        {
            var forms = new List<(Of Of, string Address, string Html, string Cookie, string From)>();
            foreach (var (of, address) in chunk)
            {
                var from = $"{60 + (++network >> 16)}.{network >> 8 & 255}.{network & 255}.9";
                // Whoever asks for a new address of their own is signed in, each as somebody else: nobody may ask that often.
                var (html, cookies) = await FormAsync(page, from, page == NewAddress ? await SignedInAsync(first + count + askers++, from) : "");
                forms.Add((of, address, html, cookies, from));
            }

            // What a browser does for a form is done before the time counts.
            var filled = forms.Select(f => fields(f.Address, f.Html)).ToList();
            foreach (var (form, sent) in forms.Zip(filled))
            {
                var began = Stopwatch.GetTimestamp();
                using var answer = await SendAsync(page, form.From, form.Cookie, form.Html, sent);
                var html = await answer.Content.ReadAsStringAsync();
                times[form.Of].Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds);
                // What the reader typed stands in it again, and what only this form has.
                html = Hidden().Replace(html.Replace(form.Address, "", StringComparison.OrdinalIgnoreCase), "");
                answers.Add($"{form.Of} {(int)answer.StatusCode} {html.GetHashCode(StringComparison.Ordinal)}");
            }
        }

        Told(page, times[Of.There], times[Of.Nobody], answers);
    }

    private static void Told(string page, List<double> there, List<double> nobody, HashSet<string> answers)
    {
        // Mann and Whitney: how often one of there takes longer than one of nobody; a half where time tells nothing.
        var longer = there.Sum(t => nobody.Sum(n => t > n ? 1.0 : t == n ? 0.5 : 0)) / (there.Count * (double)nobody.Count);
        var spread = Math.Sqrt((there.Count + nobody.Count + 1) / (12.0 * there.Count * nobody.Count));
        var (a, b) = (answers.Count(x => x.StartsWith("There", StringComparison.Ordinal)), answers.Count - answers.Count(x => x.StartsWith("There",
            StringComparison.Ordinal)));
        var same = answers.Select(x => x[(x.IndexOf(' ', StringComparison.Ordinal) + 1)..]).Distinct().Count();
        var pairs = string.Create(
            CultureInfo.InvariantCulture, $"longer there in {longer:F3} of pairs ({(longer - 0.5) / spread:+0.0;-0.0} standard deviations)");
        Console.WriteLine(string.Create(
            CultureInfo.InvariantCulture,
            $"{page}: {there.Count} of each; middle {Middle(there):F1} ms there, {Middle(nobody):F1} ms nobody; {pairs}; {a} + {b} answers, {same} different"));
    }

    /// <summary>What a browser works out for a form, as visitors' scripts do: the number whose digest behind the seal begins with so many noughts.</summary>
    private static string WorkOf(string html)
    {
        var (seal, bits) = (Seal().Match(html).Groups[1].Value, int.Parse(Bits().Match(html).Groups[1].Value, CultureInfo.InvariantCulture));
        for (var n = 0; ; n++)
        {
            var digest = SHA256.HashData(Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{seal}:{n}")));
            if (BitOperations.LeadingZeroCount(BinaryPrimitives.ReadUInt32BigEndian(digest)) >= bits)
            {
                return n.ToString(CultureInfo.InvariantCulture);
            }
        }
    }

    private static double Middle(List<double> all) => all.Order().ElementAt(all.Count / 2);

    [GeneratedRegex("name=\"__RequestVerificationToken\" value=\"([^\"]+)\"")]
    private static partial Regex Token();

    [GeneratedRegex("name=\"seal\" value=\"([^\"]+)\"")]
    private static partial Regex Seal();

    [GeneratedRegex("data-bits=\"([0-9]+)\"")]
    private static partial Regex Bits();

    [GeneratedRegex("<input type=\"hidden\"[^>]*>|nonce=\"[^\"]*\"|data-seal=\"[^\"]*\"|data-bits=\"[^\"]*\"")]
    private static partial Regex Hidden();
}
