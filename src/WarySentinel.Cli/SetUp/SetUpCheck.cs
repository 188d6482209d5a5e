using System.Net;
using WarySentinel.Client;

namespace WarySentinel.Cli.SetUp;

/// <summary>What was tried, and what came of it.</summary>
/// <param name="What">What.</param>
/// <param name="Good">Whether it is as it should be.</param>
/// <param name="Said">What came of it.</param>
/// <param name="Mend">What to do where it is not.</param>
internal sealed record Checked(string What, bool Good, string Said, string? Mend = null);

/// <summary>Tries the site as its visitors meet it: a guest, somebody who may, a letter. Nothing is changed by it.</summary>
internal sealed class SetUpCheck(Call call) : IDisposable
{
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(15);
    private readonly HttpClient guest = NewHttp();

    /// <summary>Tries everything.</summary>
    /// <param name="closed">The addresses that are closed.</param>
    /// <param name="audience">Whom they let in.</param>
    public async Task<IReadOnlyList<Checked>> AllAsync(IReadOnlyList<string> closed, string audience)
    {
        var found = new List<Checked>();
        var look = (await call.Client.VisitorPagesAsync(call.Stop)).FirstOrDefault(p => p.Key == "sign-in")?.Look;
        if (look is null || !Uri.TryCreate(look, UriKind.Absolute, out var signIn))
        {
            return [new Checked("site", false, "The service does not know where the site answers.", "Set SiteUrl (docs/reference/settings.md).")];
        }

        found.Add(await PagesAsync(signIn));
        foreach (var address in closed.Where(c => c.StartsWith('/')).Select(PlainOf).Distinct())
        {
            var at = new Uri(signIn, address);
            found.Add(await TurnedAwayAsync(at));
            found.Add(await LetInAsync(at, address, audience));
        }

        found.Add(await MailAsync());
        return found;
    }

    /// <summary>An address that a pattern stands for.</summary>
    private static string PlainOf(string pattern) => pattern.IndexOf('*', StringComparison.Ordinal) is > 0 and var star
        ? pattern[..star].TrimEnd('/') is { Length: > 0 } folder ? folder : "/" : pattern;

    private async Task<Checked> PagesAsync(Uri signIn)
    {
        var (status, body) = await AskAsync(guest, signIn);
        return status == HttpStatusCode.OK && body.Contains("__RequestVerificationToken", StringComparison.Ordinal)
            ? new Checked("pages", true, $"Visitors reach the service's pages at {signIn}.")
            : new Checked("pages", false, $"{signIn} answers {Said(status)}, and not with the sign-in page.",
                "Have the gateway listen there (SiteListen), or nginx pass /account and /sentinel to it (docs/how-to/in-front-of-a-site.md).");
    }

    private async Task<Checked> TurnedAwayAsync(Uri at)
    {
        var (status, _) = await AskAsync(guest, at);
        return status is HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden or HttpStatusCode.NotFound or HttpStatusCode.Redirect
            or HttpStatusCode.SeeOther
            ? new Checked("guest", true, $"A guest is turned away at {at.PathAndQuery} ({Said(status)}).")
            : new Checked("guest", false, $"A guest gets {Said(status)} at {at.PathAndQuery}.",
                status is null ? "The site does not answer there: see “pages”."
                    : "What visitors ask does not pass the service: see docs/how-to/in-front-of-a-site.md.");
    }

    private async Task<Checked> LetInAsync(Uri at, string address, string audience)
    {
        var viewpoint = audience.Split(' ')[0].Trim('(');
        try
        {
            using var member = NewHttp();
            var opened = await call.Client.OpenViewAsync(viewpoint.Contains(':', StringComparison.Ordinal) ? viewpoint : "signed-in", address, null, call.Stop);
            await AskAsync(member, new Uri(opened.Url));
            var (status, _) = await AskAsync(member, at);
            return status is HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden or null
                ? new Checked("member", false, $"Whoever should get in ({viewpoint}) gets {Said(status)} at {at.PathAndQuery}.",
                    $"Ask why: wary why {viewpoint} open {address}")
                : new Checked("member", true, $"Whoever should ({viewpoint}) gets in at {at.PathAndQuery} ({Said(status)}"
                    + $"{(status == HttpStatusCode.NotFound ? ": the site has no page there yet" : "")}).");
        }
        catch (SentinelException fault)
        {
            return new Checked("member", false, fault.Message, $"Ask why: wary why {viewpoint} open {address}");
        }
    }

    private async Task<Checked> MailAsync()
    {
        var test = await call.Client.TestMailAsync(call.Stop);
        var step = test.Steps.FirstOrDefault(s => s.Mend is not null) ?? (test.Steps.Count > 0 ? test.Steps[^1] : null);
        return new Checked("mail", test.Works, test.Works ? "The mail server takes letters." : step?.Said ?? "The mail server takes no letters.",
            test.Works ? null : step?.Mend);
    }

    private async Task<(HttpStatusCode? Status, string Body)> AskAsync(HttpClient http, Uri at)
    {
        try
        {
            using var answer = await http.GetAsync(at, call.Stop);
            return (answer.StatusCode, await answer.Content.ReadAsStringAsync(call.Stop));
        }
        catch (Exception fault) when (fault is HttpRequestException or TaskCanceledException && !call.Stop.IsCancellationRequested)
        {
            return (null, "");
        }
    }

    private static string Said(HttpStatusCode? status) => status is { } code ? $"{(int)code}" : "nothing";

    private static HttpClient NewHttp() => new(new SocketsHttpHandler { AllowAutoRedirect = false, CookieContainer = new CookieContainer() })
    {
        Timeout = Longest, DefaultRequestHeaders = { { "Accept", "text/html" } },
    };

    /// <inheritdoc/>
    public void Dispose() => guest.Dispose();
}
