using WarySentinel.Core;
using WarySentinel.Service.Nodes;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>
/// The one way to change what is known of people: command, store, tell. Two writers of the same person meet at the version of their row; nobody else
/// waits for anybody, and the policy is not touched.
/// </summary>
public sealed class PeopleLane(Store store, Hearsay hearsay, ILogger<PeopleLane> log)
{
    private const int MostTries = 30;
    private const int LongestPauseMilliseconds = 100;

    /// <summary>Runs a command and stores what it gives.</summary>
    /// <param name="command">Reads, and gives an edit or why not. Runs again where somebody else was faster.</param>
    /// <param name="by">Who does it.</param>
    public async Task<Outcome<T>> ChangeAsync<T>(Func<Task<Outcome<Edit<T>>>> command, string by)
    {
        for (var tries = 1; ; tries++)
        {
            var outcome = await command();
            if (outcome.Problem is { } problem)
            {
                return problem;
            }

            var edit = outcome.Value.ToStore;
            if (edit.Changes.Count == 0)
            {
                return outcome.Value.Value;
            }

            try
            {
                await StoreAsync(edit, by);
                return outcome.Value.Value;
            }
            catch (StoreRefusedException refused)
            {
                return refused.Problem;
            }
            catch (StoreMovedException) when (tries < MostTries)
            {
                // Once more, against what is there by now.
            }
            catch (StoreMovedException)
            {
                return Problem.Of(ProblemKind.Conflict, "moved");
            }

            // Many who write the same person give way to each other, each for another while; else the same few would win each time. It is threads that
            // wait here, whatever the clock of the site says.
            await Task.Delay(TimeSpan.FromMilliseconds(Random.Shared.Next(Math.Min(LongestPauseMilliseconds, 2 << Math.Min(tries, 8)))));
        }
    }

    /// <summary>Tells this machine what was stored past the lane.</summary>
    public void Tell(IReadOnlyList<Storage.Nodes.News> news) => hearsay.Tell(news);

    /// <summary>Whoever asked may leave; what was begun is stored.</summary>
    private async Task StoreAsync(Edit edit, string by)
    {
        var stored = await store.ApplyAsync(edit, by, stop: CancellationToken.None);
        hearsay.Tell(stored.News);
        log.LogDebug("Changed {Action} {Subject} by {By}", edit.Action, edit.Subject, by);
    }

    /// <summary>Runs a command that reads nothing.</summary>
    public Task<Outcome<T>> ChangeAsync<T>(Edit<T> edit, string by) => ChangeAsync(() => Task.FromResult<Outcome<Edit<T>>>(edit), by);
}
