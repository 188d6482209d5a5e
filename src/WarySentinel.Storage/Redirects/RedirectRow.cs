using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Storage.Redirects;

internal sealed class RedirectRow
{
    public required string Key { get; set; }

    public int On { get; set; }

    public required string Audience { get; set; }

    public required string To { get; set; }

    public int Position { get; set; }

    public bool Insists { get; set; }

    public int Version { get; set; }

    public static RedirectRow Of(Redirect redirect) => new()
    {
        Key = redirect.Key, On = (int)redirect.On, Audience = redirect.Audience.ToString(), To = redirect.To, Position = redirect.Position,
        Insists = redirect.Insists, Version = redirect.Version,
    };

    /// <summary>The redirect, or what of it cannot be read.</summary>
    public (Redirect? Redirect, StoredFault? Fault) ToRedirect()
    {
        var audience = AudienceParser.ParseStored(Audience);
        var said = audience.Problem is { } problem ? Wording.Of("stored.audience", problem.Detail, Audience) : Enum.IsDefined((RedirectOn)On) ? null
            : Wording.Of("stored.value", On);
        return said is null ? (new(Key, (RedirectOn)On, audience.Value, To, Position, Insists, Version), null)
            : (null, StoredFault.Harmless("redirect", Key, said));
    }

    public static void Map(EntityTypeBuilder<RedirectRow> e)
    {
        e.ToTable("redirects");
        e.HasKey(r => r.Key);
    }
}
