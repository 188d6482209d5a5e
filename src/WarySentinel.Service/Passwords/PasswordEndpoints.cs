using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Passwords;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Passwords;

/// <summary>The shared passwords of gates.</summary>
public static class PasswordEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapPasswords(this RouteGroupBuilder api)
    {
        var passwords = api.MapGroup("/passwords").WithTags("Shared passwords");
        passwords.MapGet("/", List).Requires("read");
        passwords.MapPost("/", Add).Requires("write");
        passwords.MapPost("/{id:guid}/rotate", Rotate).Requires("write");
        passwords.MapPost("/{id:guid}/withdraw", Withdraw).Requires("write");
        return api;
    }

    private static async Task<Ok<PageOf<SharedPasswordView>>> List(string? gate, Store store, TimeProvider time, CancellationToken stop)
    {
        var networks = await store.PasswordNetworksAsync(stop);
        var found = await store.SharedPasswordsAsync(gate, stop);
        return TypedResults.Ok(
            new PageOf<SharedPasswordView>([.. found.Select(p => p.ToWire(time.GetUtcNow(), networks.GetValueOrDefault(p.Id)))], null));
    }

    private static async Task<Results<Created<SharedPasswordView>, ProblemHttpResult>> Add(
        SharedPasswordDraft draft, HttpContext http, SharedPasswords passwords, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        Problem? odd = null;
        var (from, until) = SiteDates.ReadBoth(
            policies.Current.Settings.TimeZone, draft.From, draft.Until, (field, code, values) => odd ??= Problem.In(field, code, values));
        if (odd is not null)
        {
            return odd.ToHttp();
        }

        var tell = ToldOf(draft.Tell);
        if (tell.Problem is { } untold)
        {
            return untold.ToHttp();
        }

        var terms = new SharedPasswordTerms(draft.Gate ?? "", draft.Label, from, until, draft.MostUses, draft.Asked) { ForOrders = draft.ForOrders };
        return Made(await passwords.AddAsync(terms, draft.Password?.Reveal(), tell.Value, Caller.Of(http).Name, stop), time);
    }

    /// <summary>Who is sent a password, each address once.</summary>
    private static Outcome<List<string>> ToldOf(IReadOnlyList<string>? asked)
    {
        var tell = (asked ?? []).Select(t => (Typed: t, Email: EmailAddress.Normalise(t))).ToList();
        return tell.Count > Rotation.MostTold ? Problem.In("tell", "rotation-tell", Rotation.MostTold)
            : tell.FirstOrDefault(t => t.Email is null) is { Typed: { } odd } ? Problem.In("tell", "email-form", odd)
            : tell.Select(t => t.Email!).Distinct().ToList();
    }

    private static async Task<Results<Created<SharedPasswordView>, ProblemHttpResult>> Rotate(
        Guid id, RotateDraft draft, HttpContext http, SharedPasswords passwords, TimeProvider time, CancellationToken stop)
    {
        var (overlap, tell) = (PassEndpoints.OverlapOf(draft.Overlap), ToldOf(draft.Tell));
        return (overlap.Problem ?? tell.Problem) is { } odd ? odd.ToHttp()
            : Made(await passwords.RotateAsync(id, overlap.Value, tell.Value, Caller.Of(http).Name, stop), time);
    }

    private static async Task<Results<Ok<SharedPasswordView>, ProblemHttpResult>> Withdraw(
        Guid id, HttpContext http, SharedPasswords passwords, TimeProvider time, CancellationToken stop) =>
        (await passwords.WithdrawAsync(id, Caller.Of(http).Name, stop))
            .Match<Results<Ok<SharedPasswordView>, ProblemHttpResult>>(
            ended => TypedResults.Ok(ended.ToWire(time.GetUtcNow())), problem => problem.ToHttp());

    private static Results<Created<SharedPasswordView>, ProblemHttpResult> Made(Outcome<MadePassword> outcome, TimeProvider time) =>
        outcome.Match<Results<Created<SharedPasswordView>, ProblemHttpResult>>(
            made => TypedResults.Created($"/api/v1/passwords/{made.Password.Id}", made.Password.ToWire(time.GetUtcNow(), 0, made)),
            problem => problem.ToHttp());
}
