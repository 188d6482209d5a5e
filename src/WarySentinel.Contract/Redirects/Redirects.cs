namespace WarySentinel.Contract.Redirects;

/// <summary>A redirect: on this occasion, this audience lands there.</summary>
public sealed record RedirectView(string Key, string On, string Audience, string To, int Position, int Version);

/// <summary>A redirect to be stored.</summary>
/// <param name="Key">Its name.</param>
/// <param name="On">The occasion: <c>sign-in</c> or <c>sign-out</c>.</param>
/// <param name="Audience">For whom; anyone unless said.</param>
/// <param name="To">An address on the site.</param>
/// <param name="Position">The first that fits counts, from the lowest.</param>
public sealed record RedirectDraft(string? Key, string? On, string? Audience, string? To, int? Position = null);
