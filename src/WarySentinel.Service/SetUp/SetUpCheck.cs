using System.Globalization;
using WarySentinel.Contract.SetUp;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.SetUp;
using WarySentinel.Core.Sweep;
using WarySentinel.Service.Access;
using WarySentinel.Service.Letters;
using WarySentinel.Service.People;
using WarySentinel.Service.Sweep;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.SetUp;

/// <summary>
/// Tries the site as its visitors meet it, over HTTP at its own address: a guest, somebody who may, the mail server, a letter. Nothing is changed by it.
/// </summary>
public sealed class SetUpCheck(
    PolicyHolder policies, Viewpoints viewpoints, Sessions sessions, MailTest mail, MailTrial trial, IHttpClientFactory clients, ServiceOptions options,
    TimeProvider time)
{
    private const int MostTried = 12;
    private const string FieldOfForms = "__RequestVerificationToken";

    /// <summary>Tries everything, and tells each as it comes.</summary>
    public async Task RunAsync(Action<SetUpCheckView> tell, CancellationToken stop)
    {
        using var http = clients.CreateClient(OwnRequests.Sweep);
        var (pages, answers) = await PagesAsync(http, stop);
        tell(pages);
        var trials = ClosedAddress.Of(policies.Current, time.GetUtcNow(), MostTried, SetUpAnswers.Gate);
        if (trials.Count == 0)
        {
            tell(Wrong("guest", "setup.open", "setup.open-mend"));
        }

        if (!answers && trials.Count > 0)
        {
            // Each would wait as long again for nothing.
            tell(Wrong("guest", "setup.silent", "setup.silent-mend"));
        }

        foreach (var tried in answers ? trials : [])
        {
            tell(await TurnedAwayAsync(http, tried.Address, stop));
            tell(await LetInAsync(http, tried, stop));
        }

        tell(await MailAsync(stop));
        tell(await trial.StandsAsync(policies.Current.Settings.Letters.NoticesTo, stop));
    }

    private async Task<(SetUpCheckView Said, bool Answers)> PagesAsync(HttpClient http, CancellationToken stop)
    {
        var page = PageBook.Of(policies.Current).AddressOf(options.AccountPrefix, "/sign-in");
        var seen = await AskAsync(http, page, null, stop);
        var said = seen.Status == StatusCodes.Status200OK && seen.Text?.Contains(FieldOfForms, StringComparison.Ordinal) == true
            ? Good("pages", "setup.pages", options.SiteUrl.TrimEnd('/') + page)
            : new SetUpCheckView("pages", "wrong", Words.Of("setup.pages-not", options.SiteUrl.TrimEnd('/') + page, Said(seen)), Words.Of("setup.pages-mend"));
        return (said, seen.Status != 0);
    }

    private async Task<SetUpCheckView> TurnedAwayAsync(HttpClient http, string address, CancellationToken stop)
    {
        var seen = await AskAsync(http, address, null, stop);
        return IsOurRefusal(seen) ? Good("guest", "setup.away", address, Said(seen))
            : new SetUpCheckView(
                "guest", "wrong", Words.Of("setup.away-not", address, Said(seen)), Words.Of(seen.Status == 0 ? "setup.silent-mend" : "setup.away-mend"));
    }

    private async Task<SetUpCheckView> LetInAsync(HttpClient http, ClosedAddress tried, CancellationToken stop)
    {
        if (tried.Insider is not { } insider || (await viewpoints.FindAsync(insider, policies.Current, false, stop)).Problem is not null)
        {
            return Wrong("member", "setup.nobody", "setup.nobody-mend", tried.Address);
        }

        var (session, cookie) = await sessions.BeginViewAsync(insider, stop);
        try
        {
            var seen = await AskAsync(http, tried.Address, cookie, stop);
            return seen.Status == 0 || IsOurRefusal(seen)
                ? Wrong("member", "setup.in-not", "setup.in-mend", tried.Address, insider, Said(seen))
                : Good("member", seen.Status == StatusCodes.Status404NotFound ? "setup.in-nothing" : "setup.in", tried.Address, insider, Said(seen));
        }
        finally
        {
            await sessions.EndAsync(session);
        }
    }

    private async Task<SetUpCheckView> MailAsync(CancellationToken stop)
    {
        var test = (await mail.RunAsync(stop)).Value!;
        var bad = test.Steps.FirstOrDefault(s => s.State == "bad");
        return test.Works ? Good("mail", "setup.mail") : new SetUpCheckView("mail", "wrong", bad?.Said ?? Words.Of("setup.mail-not"), bad?.Mend);
    }

    private Task<Sighting> AskAsync(HttpClient http, string address, string? cookie, CancellationToken stop) => new SweepProbe(
        SweepVia.Public, new Uri(options.SiteUrl), new SeenAs("guest", "", "", Core.Facts.Visitor.Guest), cookie).AskAsync(http, address, stop);

    /// <summary>Whether the service turned somebody away: it marks what it says of closed things for no cache to keep, which a site's own 404 is not.</summary>
    private bool IsOurRefusal(Sighting seen) =>
        seen.CacheControl.Contains("no-store", StringComparison.OrdinalIgnoreCase)
        && (seen.Status is StatusCodes.Status401Unauthorized or StatusCodes.Status403Forbidden or StatusCodes.Status404NotFound
            || (seen.Status is >= 300 and < 400 && IsOurs(seen.Location)));

    /// <summary>Whether a redirect leads where the refused are sent: to a page of ours, wherever it stands, or where a gate says.</summary>
    private bool IsOurs(string? location) =>
        Uri.TryCreate(new Uri(options.SiteUrl), location ?? "/", out var to)
        && (RequestPath.IsUnder(to.AbsolutePath, options.AccountPrefix)
            || PageBook.Of(policies.Current).All.Any(p => p.Address is { } own && RequestPath.IsUnder(to.AbsolutePath, own))
            || policies.Current.Gates.Any(g => g.RedirectTo is { } there && there == to.PathAndQuery));

    private static string Said(Sighting seen) => seen.Status == 0 ? Words.Of("setup.nothing") : seen.Status.ToString(CultureInfo.InvariantCulture);

    private static SetUpCheckView Good(string what, string words, params object?[] values) => new(what, "good", Words.Of(words, values));

    private static SetUpCheckView Wrong(string what, string words, string mend, params object?[] values) =>
        new(what, "wrong", Words.Of(words, values), Words.Of(mend, values));
}
