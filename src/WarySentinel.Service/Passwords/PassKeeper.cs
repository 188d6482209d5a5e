using WarySentinel.Core.Passwords;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Passwords;

/// <summary>
/// Finds and proves passes. Their passwords are drawn at random, so that a keyed digest proves one as well as a slow hash would; whoever guesses is slowed
/// where all who sign in are (docs/explanation/security.md).
/// </summary>
public sealed class PassKeeper(Store store, Secrets secrets, TimeProvider time) : IPasses
{
    private const int LongestPassword = 200;

    /// <summary>The keyed digest of a pass's password.</summary>
    public string DigestOf(string password) => secrets.IndexOf("pass " + SharedPassword.Normalise(password));

    /// <inheritdoc/>
    public async Task<HeldPass?> FindAsync(Guid id, CancellationToken stop) =>
        await store.PassAsync(id, stop) is { } pass && pass.IsInForce(time.GetUtcNow()) ? Held(pass) : null;

    /// <inheritdoc/>
    public async Task<ProvedPass?> ProveAsync(string name, string password, string network, CancellationToken stop)
    {
        var (now, typed) = (time.GetUtcNow(), Pass.NormaliseName(name));
        if (typed.Length is 0 or > Pass.LongestName || password.Length > LongestPassword || !Core.PlainText.IsClean(typed)
            || await store.PassByNameAsync(typed, stop) is not { } pass || !pass.IsProvedBy(DigestOf(password), now))
        {
            return null;
        }

        var standing = pass.StandingAt(now);
        if (!pass.IsInForce(now))
        {
            return new ProvedPass(null, null, PageWords.Of(standing == "later" ? "pass.later" : "pass.over"));
        }

        var isOld = !(pass with { OldDigest = null }).IsProvedBy(DigestOf(password), now);
        return await store.UsePassAsync(pass.Id, secrets.IndexOf("network " + network)[..16], stop)
            ? new ProvedPass(Held(pass), isOld ? pass.OldUntil : null, null) : new ProvedPass(null, null, PageWords.Of("pass.used-up"));
    }

    private static HeldPass Held(Pass pass) => new(pass.Id, pass.Name, pass.ToGrant(), pass.Version);
}
