using System.Text.Json.Serialization;

namespace WarySentinel.Contract.Redirects;

/// <summary>A redirect: on this occasion, this audience lands there.</summary>
/// <param name="Key">Its name.</param>
/// <param name="On">The occasion.</param>
/// <param name="Audience">For whom.</param>
/// <param name="To">An address on the site; <c>{member}</c>, <c>{role}</c>, <c>{return_to}</c> and <c>{home}</c> stand for what is known then.</param>
/// <param name="Position">The first that fits counts, from the lowest.</param>
/// <param name="Insists">Whether it counts before the page that somebody wanted.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record RedirectView(string Key, string On, string Audience, string To, int Position, bool Insists, int Version);

/// <summary>A redirect to be stored.</summary>
/// <param name="Key">Its name.</param>
/// <param name="On">
/// The occasion: <c>sign-in</c>, <c>sign-out</c>, <c>first-sign-in</c>, <c>registration</c>, <c>confirmation</c>, <c>approval</c>, <c>password-set</c>,
/// <c>refusal</c> or <c>unlock</c>.
/// </param>
/// <param name="Audience">For whom; anyone unless said.</param>
/// <param name="To">An address on the site.</param>
/// <param name="Position">The first that fits counts, from the lowest.</param>
/// <param name="Insists">Whether it counts before the page that somebody wanted.</param>
public sealed record RedirectDraft(string? Key, string? On, string? Audience, string? To, int? Position = null, bool? Insists = null);

/// <summary>A question: who lands where.</summary>
/// <param name="As">A viewpoint or a member: <c>guest</c>, <c>role:dealer</c>, an e-mail address; a guest unless said.</param>
/// <param name="On">The occasion.</param>
/// <param name="Wanted">The page that they were going to.</param>
/// <param name="Form">Where the form leads that they used.</param>
public sealed record LandingQuestion(string? As, string? On, string? Wanted = null, string? Form = null);

/// <summary>Where somebody lands, and why.</summary>
/// <param name="Who">Who it is, in words.</param>
/// <param name="To">The address; null where nothing says, and the service shows a page of its own or the start page.</param>
/// <param name="Why"><c>insists</c>, <c>wanted</c>, <c>form</c>, <c>rule</c>, <c>home</c> or <c>nothing</c>.</param>
/// <param name="Rule">The key of the redirect, where it is one.</param>
/// <param name="Reason">Why, in a sentence.</param>
/// <param name="Ways">Everything that was looked at, in order.</param>
public sealed record LandingView(string Who, string? To, string Why, string? Rule, string Reason, IReadOnlyList<LandingWayView> Ways);

/// <summary>A way that was looked at.</summary>
/// <param name="Why">What says so, as in the answer.</param>
/// <param name="Rule">The key of the redirect, where it is one.</param>
/// <param name="To">The address.</param>
/// <param name="Step"><c>taken</c>, <c>not-for-them</c>, <c>closed</c> (a page that they may not open is never a landing) or <c>missing</c>.</param>
public sealed record LandingWayView(string Why, string? Rule, string To, string Step);
