using System.Collections.Frozen;
using System.Net;
using System.Net.Sockets;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.DataProtection;
using WarySentinel.Core.Access;
using WarySentinel.Core.Forms;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Forms;

/// <summary>The pages under <c>/account</c>: sign-in, sign-out, the password prompt, the account itself.</summary>
public sealed class AccountPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, SignIn signIn, SharedPasswords shared, Sessions sessions, IAntiforgery antiforgery,
    IDataProtectionProvider protection, ServiceOptions options, TimeProvider time)
{
    /// <summary>What the tickets of viewpoints are protected for.</summary>
    public const string ViewpointPurpose = "viewpoint";

    private static readonly FrozenDictionary<string, (string Type, byte[] Bytes)> Assets = LoadAssets();

    /// <summary>Maps the pages and what they need.</summary>
    public void Map(IEndpointRouteBuilder site)
    {
        var account = site.MapGroup(options.AccountPrefix);
        account.MapGet("/", AccountAsync);
        account.MapGet("/sign-in", SignInFormAsync);
        account.MapPost("/sign-in", SignInAsync);
        account.MapGet("/sign-out", SignOutFormAsync);
        account.MapPost("/sign-out", SignOutAsync);
        account.MapGet("/unlock", UnlockFormAsync);
        account.MapPost("/unlock", UnlockAsync);
        account.MapGet("/closed", ClosedAsync);
        account.MapGet("/assets/{name}", Asset);
        account.MapFallback(refusals.NotFoundAsync);
        site.MapGet(options.MachinePrefix + "/view", ViewAsync);
        site.MapFallback(options.MachinePrefix + "/{**rest}", refusals.NotFoundAsync);
    }

    private async Task AccountAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        var (visitor, policy, now) = (arrival.Visitor, policies.Current, time.GetUtcNow());
        var lines = new List<string> { visitor.IsSignedIn ? PageWords.Of("account.lead", visitor.Name ?? visitor.Email) : PageWords.Of("account.guest") };
        var held = policy.Standings.Where(s => visitor.Has(s.Kind, s.Key, now)).Select(s => s.Title).ToList();
        if (held.Count > 0)
        {
            lines.Add(PageWords.Of("account.roles", string.Join(", ", held)));
        }

        var unlocked = policy.Gates.Where(g => visitor.HasUnlocked(g.Key, now)).Select(g => g.Title).ToList();
        if (unlocked.Count > 0)
        {
            lines.Add(PageWords.Of("account.unlocked", string.Join(", ", unlocked)));
        }

        var token = visitor.IsSignedIn || unlocked.Count > 0 ? antiforgery.GetAndStoreTokens(http) : null;
        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = refusals.Frame(arrival, options.AccountPrefix + "/"),
            Model = new MessageModel(PageWords.Of("account.title"), lines)
            {
                TokenField = token?.FormFieldName ?? "", SignOutToken = token?.RequestToken, SignOutWords = PageWords.Of("account.sign-out"), SignIn = !visitor.IsSignedIn,
            },
        });
    }

    private async Task SignInFormAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        var back = BackOf(http.Request.Query["return_to"]);
        if (arrival.Visitor is { IsSignedIn: true, IsViewpoint: false })
        {
            See(http, refusals.DecisionAt(arrival, back) is { Decision.Allowed: false } ? $"{options.AccountPrefix}/closed?return_to={Uri.EscapeDataString(back!)}" : back ?? options.AccountPrefix + "/");
            return;
        }

        await refusals.SignInAsync(http, arrival, back, null, true, null, 200);
    }

    private async Task SignInAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        if (await FormAsync(http) is not { } form)
        {
            await refusals.SignInAsync(http, arrival, null, null, true, Stale(), 400);
            return;
        }

        var back = BackOf(form["return_to"]);
        var (name, password, keep) = (form["name"].ToString().Trim(), form["password"].ToString(), form["keep"] == "yes");
        if (name.Length == 0 || password.Length == 0)
        {
            var error = name.Length == 0
                ? new PageError(PageWords.Of("error.empty-name"), "", "name")
                : new PageError(PageWords.Of("error.empty-password"), "", "password");
            await refusals.SignInAsync(http, arrival, back, name, keep, error, 422);
            return;
        }

        var tried = await signIn.TryAsync(name, password, NetworkOf(http), http.RequestAborted);
        if (tried.Member is not { } member)
        {
            await refusals.SignInAsync(http, arrival, back, name, keep, Wrong(http, tried, "error.wrong", "error.wrong-more"), http.Response.StatusCode == 200 ? 401 : http.Response.StatusCode);
            return;
        }

        await sessions.BeginAsync(http, SessionPurpose.Site, member.Id, keep);
        See(http, back ?? "/");
    }

    private async Task SignOutFormAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        var token = antiforgery.GetAndStoreTokens(http);
        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = refusals.Frame(arrival, options.AccountPrefix + "/"),
            Model = new MessageModel(PageWords.Of("sign-out.title"), []) { TokenField = token.FormFieldName, SignOutToken = token.RequestToken, SignOutWords = PageWords.Of("account.sign-out") },
        });
    }

    private async Task SignOutAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        if (await FormAsync(http) is not { } form)
        {
            await SignOutFormAsync(http);
            return;
        }

        await sessions.EndAsync(http, SessionPurpose.Site);
        // The browser forgets pages it kept for "back" as well (Clear Site Data §3.1).
        http.Response.Headers["Clear-Site-Data"] = "\"cache\"";
        if (BackOf(form["return_to"]) is { } back)
        {
            See(http, $"{options.AccountPrefix}/sign-in?return_to={Uri.EscapeDataString(back)}");
            return;
        }

        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = refusals.Frame(arrival, "/"),
            Model = new MessageModel(PageWords.Of("signed-out.title"), [PageWords.Of("signed-out.lead")]) { SignIn = true },
        });
    }

    private async Task UnlockFormAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        var back = BackOf(http.Request.Query["return_to"]) ?? "/";
        var gate = GateAsked(http.Request.Query["gate"], arrival, back);
        if (gate is null)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (arrival.Visitor.HasUnlocked(gate.Key, time.GetUtcNow()))
        {
            See(http, back);
            return;
        }

        await refusals.UnlockAsync(http, arrival, gate, back, null, 200);
    }

    private async Task UnlockAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        var form = await FormAsync(http);
        var back = BackOf(form?["return_to"]) ?? "/";
        if (GateAsked(form?["gate"], arrival, back) is not { } gate)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (form is null)
        {
            await refusals.UnlockAsync(http, arrival, gate, back, Stale(), 400);
            return;
        }

        var typed = form["password"].ToString();
        if (typed.Trim().Length == 0)
        {
            await refusals.UnlockAsync(http, arrival, gate, back, new PageError(PageWords.Of("error.empty-shared"), "", "password"), 422);
            return;
        }

        var tried = await shared.TryAsync(typed, NetworkOf(http), http.RequestAborted);
        if (tried.Unlocks.Count == 0)
        {
            var error = Wrong(http, tried.Try, "unlock.wrong", "unlock.wrong-more");
            await refusals.UnlockAsync(http, arrival, gate, back, error, http.Response.StatusCode == 200 ? 401 : http.Response.StatusCode);
            return;
        }

        await sessions.UnlockAsync(http, tried.Unlocks);
        See(http, back);
    }

    private async Task ClosedAsync(HttpContext http)
    {
        var arrival = await visitors.ReadAsync(http);
        var back = BackOf(http.Request.Query["return_to"]);
        if (back is null || refusals.DecisionAt(arrival, back) is not ({ } decision, _))
        {
            await refusals.NotFoundAsync(http);
        }
        else if (decision.Refusal is { } refusal)
        {
            await refusals.ClosedAsync(http, arrival, refusal.Gate, decision.Items.Count > 0 ? decision.Items[0] : null, back);
        }
        else
        {
            See(http, back);
        }
    }

    private async Task ViewAsync(HttpContext http)
    {
        var back = BackOf(http.Request.Query["return_to"]) ?? "/";
        GuardedHeaders.Set(http.Response.Headers);
        if (http.Request.Query["leave"] == "1")
        {
            await sessions.EndAsync(http, SessionPurpose.View);
            See(http, back);
            return;
        }

        try
        {
            var view = protection.CreateProtector(ViewpointPurpose).ToTimeLimitedDataProtector().Unprotect(http.Request.Query["ticket"].ToString());
            await sessions.BeginAsync(http, SessionPurpose.View, null, false, view);
            See(http, back);
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            await refusals.MessageAsync(http, 403, "view.expired-title", "view.expired-lead");
        }
    }

    private Gate? GateAsked(string? key, Arrival arrival, string back)
    {
        var named = policies.Current.FindGate(key ?? "");
        named = named is { IsExemption: false } && named.Audience.AsksForPassword ? named : null;
        return named ?? (refusals.DecisionAt(arrival, back) is ({ Refusal: { Answer: Answer.Password } refusal }, _) ? refusal.Gate : null);
    }

    private static PageError Wrong(HttpContext http, Tried tried, string lead, string more)
    {
        if (tried.Busy)
        {
            http.Response.StatusCode = 503;
            http.Response.Headers.RetryAfter = "3";
            return new PageError(PageWords.Of("error.busy"), PageWords.Of("error.busy-more"));
        }

        if (tried.Wait > TimeSpan.Zero)
        {
            http.Response.StatusCode = 429;
            http.Response.Headers.RetryAfter = Math.Ceiling(tried.Wait.TotalSeconds).ToString(System.Globalization.CultureInfo.InvariantCulture);
            return new PageError(PageWords.Of("error.wait"), PageWords.Of("error.wait-more", Page.Duration(tried.Wait)), "password");
        }

        var left = tried.Left switch
        {
            > 3 or <= 0 => "",
            1 => " " + PageWords.Of("error.left-one"),
            var n => " " + PageWords.Of("error.left", n),
        };
        return new PageError(PageWords.Of(lead), PageWords.Of(more) + left, "password");
    }

    private async Task<IFormCollection?> FormAsync(HttpContext http)
    {
        if (!http.Request.HasFormContentType || !await antiforgery.IsRequestValidAsync(http))
        {
            return null;
        }

        return await http.Request.ReadFormAsync(http.RequestAborted);
    }

    private static PageError Stale() => new(PageWords.Of("error.stale"), PageWords.Of("error.stale-more"));

    private static string? BackOf(string? returnTo) => ReturnTo.IsOnThisSite(returnTo) ? returnTo : null;

    private static void See(HttpContext http, string where)
    {
        GuardedHeaders.Set(http.Response.Headers);
        http.Response.StatusCode = StatusCodes.Status303SeeOther;
        http.Response.Headers.Location = where;
    }

    /// <summary>The part of an address that one household or office shares: IPv4 whole, IPv6 its first 64 bits.</summary>
    public static string NetworkOf(HttpContext http)
    {
        var address = http.Connection.RemoteIpAddress ?? IPAddress.None;
        if (address.AddressFamily == AddressFamily.InterNetworkV6 && !address.IsIPv4MappedToIPv6)
        {
            return Convert.ToHexString(address.GetAddressBytes().AsSpan(0, 8));
        }

        return address.MapToIPv4().ToString();
    }

    private static IResult Asset(string name, HttpContext http)
    {
        if (!Assets.TryGetValue(name, out var asset))
        {
            return Results.NotFound();
        }

        http.Response.Headers.CacheControl = "public, max-age=3600";
        http.Response.Headers.XContentTypeOptions = "nosniff";
        return Results.Bytes(asset.Bytes, asset.Type);
    }

    private static FrozenDictionary<string, (string, byte[])> LoadAssets()
    {
        var found = new Dictionary<string, (string, byte[])>(StringComparer.Ordinal);
        var assembly = typeof(AccountPages).Assembly;
        foreach (var resource in assembly.GetManifestResourceNames().Where(n => n.StartsWith("assets/", StringComparison.Ordinal)))
        {
            using var stream = assembly.GetManifestResourceStream(resource)!;
            using var copy = new MemoryStream();
            stream.CopyTo(copy);
            var type = Path.GetExtension(resource) switch { ".css" => "text/css; charset=utf-8", ".js" => "text/javascript; charset=utf-8", _ => "font/woff2" };
            found.Add(resource["assets/".Length..], (type, copy.ToArray()));
        }

        return found.ToFrozenDictionary(StringComparer.Ordinal);
    }
}
