using System.Security.Cryptography;
using WarySentinel.Core;

namespace WarySentinel.Service.People;

/// <summary>
/// What is being edited, forms and terms, for its page to be looked at before it is stored. Each is there for a while, under a name that nobody guesses.
/// </summary>
public sealed class Previews(TimeProvider time)
{
    private const int Most = 200;
    private static readonly TimeSpan Lasts = TimeSpan.FromMinutes(30);
    private readonly Recent<(object Draft, DateTimeOffset Until)> drafts = new(Most);

    /// <summary>Keeps something for a while; gives its name.</summary>
    public string Keep(object draft)
    {
        var name = Convert.ToHexString(RandomNumberGenerator.GetBytes(16));
        drafts.Keep(name, (draft, time.GetUtcNow() + Lasts));
        return name;
    }

    /// <summary>What is kept under that name; null where there is nothing of the kind any more.</summary>
    public T? Find<T>(string? name)
        where T : class => name is { Length: 32 } && drafts.TryGet(name, out var kept) && time.GetUtcNow() < kept.Until ? kept.Draft as T : null;
}
