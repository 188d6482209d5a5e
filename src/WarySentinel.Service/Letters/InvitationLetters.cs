using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Letters;

/// <summary>The letters that ask people to join an organisation.</summary>
public sealed class InvitationLetters(Envelopes envelopes, PolicyHolder policies, ServiceOptions options) : IInvitationLetters
{
    /// <inheritdoc/>
    public Change Write(Organisation organisation, OrganisationInvitation invitation, string secret, string? by)
    {
        var settings = policies.Current.Settings;
        var until = new SiteDates(settings.TimeZone).Say(invitation.Until, false);
        var lead = by is null ? PageWords.Of("mail.join-lead-site", settings.SiteName, organisation.Title)
            : PageWords.Of("mail.join-lead", by, organisation.Title, settings.SiteName);
        return envelopes.Queue(
            invitation.Email, PageWords.Of("mail.join-subject", organisation.Title, settings.SiteName),
            string.Join("\n\n", lead, $"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/join?link={secret}", PageWords.Of("mail.join-until", until),
                PageWords.Of("mail.join-not-you")) + "\n");
    }
}
