using System.Security.Cryptography;
using WarySentinel.Core;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Service.People;

/// <summary>Forms that are being edited, for their page to be looked at before they are stored. Each is there for a while, under a name that nobody
/// guesses.</summary>
public sealed class FormPreviews(TimeProvider time)
{
    private const int Most = 200;
    private static readonly TimeSpan Lasts = TimeSpan.FromMinutes(30);
    private readonly Recent<(JoinForm Form, DateTimeOffset Until)> forms = new(Most);

    /// <summary>Keeps a form for a while; gives its name.</summary>
    public string Keep(JoinForm form)
    {
        var name = Convert.ToHexString(RandomNumberGenerator.GetBytes(16));
        forms.Keep(name, (form, time.GetUtcNow() + Lasts));
        return name;
    }

    /// <summary>The form of that name; null where there is none any more.</summary>
    public JoinForm? Find(string? name) => name is { Length: 32 } && forms.TryGet(name, out var kept) && time.GetUtcNow() < kept.Until ? kept.Form : null;
}
