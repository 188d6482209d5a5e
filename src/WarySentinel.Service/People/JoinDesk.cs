using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>What came with a form beside its answers.</summary>
/// <param name="Seal">The seal that the form was given out with.</param>
/// <param name="Work">What its browser worked out; empty where it did not.</param>
/// <param name="Decoy">What stands in the field that people don't see.</param>
/// <param name="Network">Where it came from.</param>
public sealed record FormPost(string? Seal, string Work, string Decoy, string Network);

/// <summary>Takes forms in by which people join, and looks at how they came.</summary>
public sealed class JoinDesk(
    Store store, PolicyHolder policies, MemberLinks links, MailDomains domains, FormSeals seals, PasswordHashing hashing, TimeProvider time)
{
    private static readonly TimeSpan Lately = TimeSpan.FromHours(1);

    /// <summary>
    /// Takes a form in: the account with its request, null where somebody has the address; or what is wrong. A form whose seal is none, or was used, is asked
    /// for again; one from a browser without scripts waits for a while.
    /// </summary>
    public async Task<Outcome<Joined?>> TakeAsync(JoinAttempt attempt, FormPost post, CancellationToken stop)
    {
        // In a flood nearly everybody is told this: it costs no look into the database.
        if (hashing.IsFull)
        {
            return Problem.Of(ProblemKind.TooMany, "busy");
        }

        if (seals.Take(post.Seal) is not { } seal)
        {
            return Problem.Of(ProblemKind.Stale, "form-stale");
        }

        var looked = time.GetUtcNow() - seal.At;
        if (!HasWork(post) && looked < seals.Pace)
        {
            return Problem.Of(ProblemKind.TooMany, "form-pace", Math.Ceiling((seals.Pace - looked).TotalSeconds));
        }

        var signs = Suspicion.SignsOf(await TrafficAsync(attempt.Person, post, seal, looked, stop));
        var done = await links.RegisterAsync(attempt with { Signs = signs, Network = post.Network }, stop);
        if (done.Problem is null)
        {
            seals.Use(seal);
        }

        return done;
    }

    /// <summary>A browser that could not do the work says so by a hyphen.</summary>
    private static bool HasWork(FormPost post) => post.Work is not ("" or "-");

    private async Task<JoinTraffic> TrafficAsync(MemberDraft person, FormPost post, FormSeal seal, TimeSpan looked, CancellationToken stop)
    {
        var email = EmailAddress.Normalise(person.Email) ?? "";
        var domain = email[(email.LastIndexOf('@') + 1)..];
        var (network, alike) = await store.RequestsLatelyAsync(post.Network, domain, time.GetUtcNow() - Lately, stop);
        return new JoinTraffic
        {
            FilledDecoy = post.Decoy.Length > 0,
            LookedAt = looked,
            DidWork = !HasWork(post) ? null : FormSeals.IsDone(seal, post.Work),
            FromNetwork = network,
            FromDomain = alike,
            Name = person.Name ?? "",
            Domain = domain,
            Kind = domain.Length == 0 ? MailDomain.Unknown : domains.KindOf(domain, policies.Current.Settings.Joining),
        };
    }
}
