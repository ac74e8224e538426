using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Core.Tests;

/// <summary>
/// Three windows and a server: changes, undo, redo, jumps to old states, answers that get lost, tabs that are closed, opened
/// again and duplicated, in any order. At the end all show the same, and what is there is what those who did it have left there.
/// </summary>
/// <remarks>Many more seeds than the tests try: BRADYMOTUS_SEEDS=2000, or <c>./bradymotus test windows</c>.</remarks>
public class WindowsLawTests
{
    private static readonly int Seeds = int.TryParse(Environment.GetEnvironmentVariable("BRADYMOTUS_SEEDS"), out var seeds) ? seeds : 200;

    private static readonly ChannelAddress Lift = Shots.At("base/transform.translate.y");

    /// <summary>
    /// Each change keys a frame of its own, so that the keys of the shot say which changes are in it, without asking the history.
    /// A change is there at the end unless its own window took it back, or a window that had seen it went to a state without it;
    /// and what one window alone has taken back or brought back is as it left it. A change that was done again because its branch was
    /// left is another change on the same frame: who went from the one to the other has had a hand in it.
    /// </summary>
    [Fact]
    public void Nothing_stored_disappears_but_by_who_did_it_or_had_seen_it() => Laws.ForSeeds((dice, seed) =>
    {
        var world = new World(dice, () => Shots.Crane());
        // By frame: the windows that took it away or brought it back, and whether the last to do so left it there.
        var touched = new Dictionary<double, HashSet<string>>();
        var left = new Dictionary<double, bool>();
        var frame = 1000;
        HashSet<double> Keys(Shot shot) => [.. (shot.Channel(Lift).Curve?.Keys ?? []).Select(k => k.Frame)];
        static Dictionary<double, int> Makers(History history) =>
            history.ActiveEdits(history.Head.Content).GroupBy(s => ((SetKeys)((EditEntry)s.Entry!).Edit).Frame).ToDictionary(g => g.Key, g => g.Max(s => s.Revision));
        for (var i = 0; i < 80; i++)
        {
            var window = world.Some();
            var (before, makers) = (Keys(window.History.Current), Makers(window.History));
            world.Step(window, () => new SetKeys(frame++, [new(Lift, i)]), onlyOthers: out var isExchange);
            if (isExchange)
            {
                continue;
            }
            var after = Keys(window.History.Current);
            var now = Makers(window.History);
            foreach (var key in before.Except(after).Concat(after.Where(k => !before.Contains(k) || makers[k] != now[k])))
            {
                (touched.TryGetValue(key, out var who) ? who : touched[key] = []).Add(window.Name);
                left[key] = after.Contains(key);
            }
        }
        var end = Keys(world.Settle());
        foreach (var (key, who) in touched)
        {
            if (who.Count == 1)
            {
                Assert.True(end.Contains(key) == left[key], $"{who.First()} left the key on {key} {(left[key] ? "there, and it is gone" : "out, and it is there")}.");
            }
        }
    }, Seeds);

    [Fact]
    public void Windows_come_to_the_same_shot_whatever_is_done_in_them() => Laws.ForSeeds((dice, seed) =>
    {
        var start = new SomeShots(dice).Shot();
        var some = new SomeShots(dice);
        var world = new World(dice, () => start);
        for (var i = 0; i < 40; i++)
        {
            var window = world.Some();
            world.Step(window, () => some.Edit(window.History.Current), out _);
        }
        world.Settle();
    }, Seeds);

    private sealed class World(Random dice, Func<Shot> start)
    {
        private readonly History _server = new(start());
        private readonly List<Window> _windows = [.. Enumerable.Range(0, 3).Select(i => new Window(new History(start()), $"w{i}-"))];
        private int _names = 3;

        internal Window Some() => _windows[dice.Next(_windows.Count)];

        internal void Step(Window window, Func<Edit> edit, out bool onlyOthers)
        {
            onlyOthers = false;
            switch (dice.Next(14))
            {
                case 0 or 1 when window.History.Undo is { } undo:
                    window.Do(undo.Entry);
                    break;
                case 2 when window.History.Redo is { } redo:
                    window.Do(redo.Entry);
                    break;
                case 3:
                    window.Do(new RestoreEntry(dice.Next(window.History.Revision + 1)));
                    break;
                case 4 or 5 or 6:
                    onlyOthers = true;
                    window.Send(_server, loseAnswer: dice.Next(3) == 0);
                    break;
                case 7:
                    // Closed with lines that were not sent, and opened again: from the server's journal, with what was kept.
                    onlyOthers = true;
                    _windows[_windows.IndexOf(window)] = window.Reopened(_server, start());
                    break;
                case 8 when _windows.Count < 5:
                    // A duplicated tab has lines of its own from here on.
                    onlyOthers = true;
                    _windows.Add(Window.Opened(_server, start(), $"w{_names++}-"));
                    break;
                default:
                    window.Do(new EditEntry(edit()));
                    break;
            }
        }

        /// <summary>Everybody sends, and sees what all have sent.</summary>
        internal Shot Settle()
        {
            foreach (var window in _windows.Concat(_windows))
            {
                window.Send(_server, loseAnswer: false);
            }
            var ids = _server.Steps.Skip(1).Select(s => s.Entry!.Id).ToList();
            Assert.Equal(ids.Count, ids.Distinct().Count());
            var expected = ShotJson.Write(_server.Current);
            foreach (var window in _windows)
            {
                Assert.Empty(window.Pending);
                window.Catch(_server);
                Assert.Equal(expected, ShotJson.Write(window.History.Current));
            }
            // Opened from the journal alone it is the same again, and so is every earlier state.
            var opened = new History(start());
            foreach (var step in _server.Steps.Skip(1))
            {
                opened.Append(ShotJson.Read<JournalEntry>(ShotJson.Write(step.Entry!), "entry"));
            }
            Assert.Equal(expected, ShotJson.Write(opened.Current));
            for (var revision = dice.Next(9); revision <= _server.Revision; revision += 9)
            {
                Assert.Equal(ShotJson.Write(_server.StateAt(revision)), ShotJson.Write(opened.StateAt(revision)));
            }
            return _server.Current;
        }
    }

    /// <summary>What the page does with a history: applies at once, sends in order, merges what it missed.</summary>
    private sealed class Window(History history, string name)
    {
        private int _made;
        private int _confirmed = history.Revision;

        internal string Name => name;

        internal History History => history;

        internal List<JournalEntry> Pending { get; private set; } = [];

        internal static Window Opened(History server, Shot start, string name)
        {
            var history = new History(start);
            foreach (var step in server.Steps.Skip(1))
            {
                history.Append(step.Entry!);
            }
            return new(history, name);
        }

        internal void Do(JournalEntry entry)
        {
            entry = entry with { Id = $"{name}{_made++}" };
            try
            {
                // As the page does, which has it from JSON and sends it as JSON.
                entry = ShotJson.ReadEntry(ShotJson.Write(entry));
                history.Append(entry);
                Pending.Add(entry);
            }
            catch (Exception e) when (e is Refusal || e.Source == "System.Text.Json")
            {
                // An edit that makes no sense or that JSON has no word for, or taking back what others build on.
            }
        }

        internal Window Reopened(History server, Shot start)
        {
            var again = Opened(server, start, name);
            again._made = _made;
            if (Pending.Count > 0)
            {
                (var merged, var pending, _) = again.History.Resume(_confirmed, Pending);
                return new(merged, name) { Pending = [.. pending], _made = _made, _confirmed = server.Revision };
            }
            return again;
        }

        internal void Send(History server, bool loseAnswer)
        {
            while (Pending.Count > 0)
            {
                var missed = server.Steps.Where(s => s.Revision > _confirmed).Select(s => s.Entry!).ToList();
                var known = missed.Select(m => m.Id).ToHashSet();
                if (missed.Any(m => !Pending.Any(p => p.Id == m.Id)))
                {
                    (history, var pending, _) = history.Merge(_confirmed, missed);
                    Pending = [.. pending];
                    _confirmed = server.Revision;
                    continue;
                }
                foreach (var entry in Pending.Where(p => !known.Contains(p.Id)))
                {
                    server.Append(entry);
                }
                if (loseAnswer)
                {
                    return;
                }
                _confirmed = server.Revision;
                Pending.Clear();
            }
        }

        internal void Catch(History server)
        {
            foreach (var step in server.Steps.Where(s => s.Revision > history.Revision))
            {
                history.Append(step.Entry!, isForeign: true);
            }
        }
    }
}
