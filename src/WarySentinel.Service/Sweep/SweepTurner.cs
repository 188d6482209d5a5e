using WarySentinel.Core.Access;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>Asks for closed addresses in other ways than a browser does: with other methods, headers, names of the host.</summary>
internal sealed class SweepTurner(SweepSite site, SweepReading reading)
{
    /// <summary>Asks for one.</summary>
    public async Task<SweepNote.Turned> TurnAsync(SweepTarget target, CancellationToken stop)
    {
        var (requests, findings) = (0, new List<SweepFinding>());
        foreach (var probe in site.Probes.Where(SweepSite.IsOutsider))
        {
            if (site.PathOf(target.Address) is not { } path || site.Policy.Allows(probe.As.Visitor, path, Acts.Open, site.Now))
            {
                continue;
            }

            foreach (var way in SweepWay.At(probe.Base))
            {
                requests++;
                var answer = await probe.AskAsync(site.Http, target.Address, stop, way);
                if (!answer.IsGood || (answer.Text is null && answer.Print == 0) || reading.Says(target, answer) == false)
                {
                    continue;
                }

                // Some sites answer everything with one and the same page.
                requests++;
                var madeUp = await probe.AskAsync(site.Http, $"{path.Sent.TrimEnd('/')}-{Guid.NewGuid():N}", stop, way);
                if (madeUp.Status != answer.Status || madeUp.Text != answer.Text || madeUp.Print != answer.Print)
                {
                    findings.Add(SweepRules.Otherwise(site.Policy, target, probe.Via, way.Said, answer.Status, site.Now));
                    break;
                }
            }
        }

        return new SweepNote.Turned(target.Address) { Findings = findings, Requests = requests };
    }
}
