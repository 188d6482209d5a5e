using System.Security.Cryptography;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.People;

namespace WarySentinel.Service.People;

/// <summary>The code that the first owner is made with; it stands in the log while there is none.</summary>
public sealed class SetUpCode
{
    /// <summary>The code of this start.</summary>
    public string Value { get; } = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(12));

    /// <summary>Whether the text is the code, compared in constant time.</summary>
    public bool Is(string? text) => CryptographicOperations.FixedTimeEquals(
        System.Text.Encoding.UTF8.GetBytes(text ?? ""), System.Text.Encoding.UTF8.GetBytes(Value));
}

/// <summary>
/// Whether the first owner is still to be made. Anybody may ask: once there is one, the answer is known and costs nothing, as the last owner
/// cannot go.
/// </summary>
public sealed class FirstOwner(Store store)
{
    private volatile bool isThere;

    /// <summary>Whether there is none yet.</summary>
    public async Task<bool> IsMissingAsync(CancellationToken stop) => !isThere && !(isThere = await store.IsRoleHeldAsync("owner", stop));
}

/// <summary>Signing in to the console, the first owner, access tokens.</summary>
public static class AccountEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapConsoleAccounts(this RouteGroupBuilder api)
    {
        api.MapGet("/set-up", SetUp).WithTags("Account");
        api.MapPost("/first-owner", FirstOwner).WithTags("Account").RequireRateLimiting(RateLimits.Proofs);
        api.MapPost("/sign-in", SignInToConsole).WithTags("Account").RequireRateLimiting(RateLimits.Proofs);
        api.MapPost("/sign-out", SignOut).WithTags("Account");
        api.MapGet("/me", Me).Requires("read").WithTags("Account");
        api.MapGet("/tokens", ListTokens).Requires("tokens").WithTags("Tokens");
        api.MapPost("/tokens", AddToken).WithTags("Tokens").RequireRateLimiting(RateLimits.Proofs);
        api.MapDelete("/tokens/{id:guid}", DropToken).Requires("tokens").WithTags("Tokens");
        return api;
    }

    private static async Task<Ok<SetUpView>> SetUp(
        HttpContext http, FirstOwner owner, CallerReader callers, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var caller = await callers.ReadAsync(http);
        return TypedResults.Ok(new SetUpView(
            await owner.IsMissingAsync(stop), policies.Current.Settings.SiteName, caller.IsGood ? await MeAsync(caller.Value, store, stop) : null));
    }

    private static async Task<Results<Ok<MeView>, ProblemHttpResult>> FirstOwner(
        FirstOwnerDraft draft, HttpContext http, SetUpCode code, MemberService members, FirstOwner owner, Sessions sessions, CancellationToken stop)
    {
        // Asked again where it is stored: many may ask at once, here and on other machines.
        if (!await owner.IsMissingAsync(stop))
        {
            return Problem.Of(ProblemKind.Conflict, "set-up-done").ToHttp();
        }

        if (!code.Is(draft.Code?.Reveal()))
        {
            return Problem.In("code", "set-up-code").ToHttp();
        }

        var added = await members.AddFirstOwnerAsync(
            new Rules.MemberDraft { Email = draft.Email, Name = draft.Name, Password = draft.Password?.Reveal() ?? "", Roles = ["owner"] }, "set-up", stop);
        if (added.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        await sessions.BeginAsync(http, SessionPurpose.Console, added.Value.Id, false);
        return TypedResults.Ok(ViewOf(added.Value.Name, added.Value.Email, StaffRight.Owner));
    }

    private static async Task<Results<Ok<MeView>, ProblemHttpResult>> SignInToConsole(
        Credentials credentials, HttpContext http, SignIn signIn, KnownBrowsers browsers, Sessions sessions, CallerReader callers, CancellationToken stop)
    {
        if (!http.Request.Headers.ContainsKey(CallerReader.ConsoleHeader))
        {
            return Problem.Of(ProblemKind.Forbidden, "console-header").ToHttp();
        }

        var found = await TryAsync(credentials, http, signIn, browsers, callers, stop);
        if (found.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var member = found.Value;
        await sessions.BeginAsync(http, SessionPurpose.Console, member.Id, false);
        browsers.Note(http, SessionPurpose.Console, member.Id);
        return TypedResults.Ok(ViewOf(member.Name, member.Email, callers.RightOf(member)));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SignOut(HttpContext http, Sessions sessions)
    {
        if (!http.Request.Headers.ContainsKey(CallerReader.ConsoleHeader))
        {
            return Problem.Of(ProblemKind.Forbidden, "console-header").ToHttp();
        }

        await sessions.EndAsync(http, SessionPurpose.Console);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<MeView>, ProblemHttpResult>> Me(HttpContext http, Store store, CancellationToken stop) =>
        TypedResults.Ok(await MeAsync(Caller.Of(http), store, stop));

    private static async Task<MeView> MeAsync(Caller caller, Store store, CancellationToken stop) =>
        caller.Member is { } id && await store.MemberAsync(id, stop) is { } member
            ? new MeView(member.Name, member.Email, caller.IsOwner, caller.Right, caller.Scopes)
            : new MeView(caller.Name, "", caller.IsOwner, caller.Right, caller.Scopes);

    private static MeView ViewOf(string name, string email, StaffRight right) =>
        new(name, email, right == StaffRight.Owner, StaffRights.NameOf(right) ?? "", StaffRights.ScopesOf(right));

    private static async Task<Ok<PageOf<TokenView>>> ListTokens(Store store, CancellationToken stop) =>
        TypedResults.Ok(new PageOf<TokenView>([.. (await store.TokensAsync(stop)).Select(t => ViewOf(t, null))], null));

    private static async Task<Results<Created<TokenView>, ProblemHttpResult>> AddToken(
        TokenDraft draft, HttpContext http, CallerReader callers, SignIn signIn, KnownBrowsers browsers, PeopleLane people, TimeProvider time,
        CancellationToken stop)
    {
        var maker = draft.SignIn is null ? await MakerByTokenAsync(http, callers)
            : await MakerBySignInAsync(draft.SignIn, http, signIn, browsers, callers, stop);
        if (maker.Problem is { } refused)
        {
            return refused.ToHttp();
        }

        var scopes = draft.Scopes is { Count: > 0 } ? draft.Scopes : ["read", "decide"];
        if (FaultOf(draft, scopes, maker.Value.Most) is { } fault)
        {
            return fault.ToHttp();
        }

        var text = "wary_" + System.Buffers.Text.Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(24));
        var now = time.GetUtcNow();
        var token = new ApiToken(
            Guid.CreateVersion7(), draft.Label!.Trim(), Secrets.DigestOf(text), [.. scopes.Distinct()], maker.Value.Behind, now,
            Sooner(draft.Days is { } days ? now.AddDays(days) : null, maker.Value.Longest));
        var stored = await people.ChangeAsync(
            new Edit<ApiToken>(new Edit("token.add", token.Label, [new TokenPut(token)], null, string.Join(", ", token.Scopes)), token), maker.Value.By);
        return stored.Match<Results<Created<TokenView>, ProblemHttpResult>>(
            added => TypedResults.Created($"/api/v1/tokens/{added.Id}", ViewOf(added, text)), problem => problem.ToHttp());
    }

    /// <summary>Who makes a token, and the most that it may: a token makes none that may more than itself, or lasts longer.</summary>
    private sealed record Maker(Guid? Behind, string By, IReadOnlyList<string> Most, DateTimeOffset? Longest);

    private static async Task<Outcome<Maker>> MakerBySignInAsync(
        Credentials credentials, HttpContext http, SignIn signIn, KnownBrowsers browsers, CallerReader callers, CancellationToken stop)
    {
        var found = await TryAsync(credentials, http, signIn, browsers, callers, stop);
        return found.Problem is { } refused ? refused
            : new Maker(found.Value.Id, found.Value.Email, StaffRights.ScopesOf(callers.RightOf(found.Value)), null);
    }

    private static async Task<Outcome<Maker>> MakerByTokenAsync(HttpContext http, CallerReader callers)
    {
        var caller = await callers.ReadAsync(http);
        return caller.Problem is { } unknown ? unknown
            : !caller.Value.Scopes.Contains("tokens") ? Problem.Of(ProblemKind.Forbidden, "forbidden", "tokens")
            : new Maker(caller.Value.Member, caller.Value.Name, caller.Value.Scopes, caller.Value.TokenUntil);
    }

    private static Problem? FaultOf(TokenDraft draft, IReadOnlyList<string> scopes, IReadOnlyList<string> most)
    {
        if (string.IsNullOrWhiteSpace(draft.Label) || draft.Label.Length > 120 || !PlainText.IsClean(draft.Label))
        {
            return Problem.In("label", "title-length", 120);
        }

        if (scopes.FirstOrDefault(s => !ApiToken.AllScopes.Contains(s)) is { } odd)
        {
            return Problem.In("scopes", "scope-unknown", odd, string.Join(", ", ApiToken.AllScopes));
        }

        if (scopes.FirstOrDefault(s => !most.Contains(s)) is { } more)
        {
            return Problem.Of(ProblemKind.Forbidden, draft.SignIn is null ? "token-stronger" : "owner-only", more, string.Join(", ", most));
        }

        return draft.Days is <= 0 or > 3650 ? Problem.In("days", "token-days", 3650) : null;
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> DropToken(
        Guid id, HttpContext http, Store store, PeopleLane people, CancellationToken stop)
    {
        var dropped = await people.ChangeAsync(
            async () => await store.TokenByIdAsync(id, stop) is { } token
                ? new Edit<ApiToken>(new Edit("token.remove", token.Label, [new TokenDropped(id)], token.Label), token)
                : (Outcome<Edit<ApiToken>>)Problem.Of(ProblemKind.NotFound, "token-unknown"),
            Caller.Of(http).Name);
        return dropped.Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());
    }

    private static DateTimeOffset? Sooner(DateTimeOffset? one, DateTimeOffset? other) => one is null || other < one ? other : one;

    private static async Task<Outcome<Member>> TryAsync(
        Credentials credentials, HttpContext http, SignIn signIn, KnownBrowsers browsers, CallerReader callers, CancellationToken stop)
    {
        var from = new TryFrom(Networks.Of(http), browsers.Read(http, SessionPurpose.Console));
        var tried = await signIn.TryAsync(credentials.Name ?? "", credentials.Password?.Reveal() ?? "", from, stop);
        if (tried.Busy)
        {
            http.Response.Headers.RetryAfter = "3";
            return Problem.Of(ProblemKind.TooMany, "busy");
        }

        if (tried.Words is { } words)
        {
            return Problem.Of(ProblemKind.Forbidden, "kept-out", words);
        }

        if (tried.Member is null)
        {
            if (tried.Wait > TimeSpan.Zero)
            {
                http.Response.Headers.RetryAfter = Math.Ceiling(tried.Wait.TotalSeconds).ToString(System.Globalization.CultureInfo.InvariantCulture);
                return Problem.Of(ProblemKind.TooMany, "too-many-tries", Math.Ceiling(tried.Wait.TotalSeconds));
            }

            return Problem.Of(ProblemKind.Forbidden, "wrong-credentials");
        }

        return callers.RightOf(tried.Member) != StaffRight.None ? tried.Member : Problem.Of(ProblemKind.Forbidden, "not-staff");
    }

    private static TokenView ViewOf(ApiToken token, string? text) => new(token.Id, token.Label, token.Scopes, token.CreatedAt, token.Until, text);
}
